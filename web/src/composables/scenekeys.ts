/** The keys at every station of a scene. */
import { useEventListener } from "@vueuse/core";
import type { Router } from "vue-router";

import { CHECKS, labelOf } from "../checks";
import { useKeys, type Action } from "../keys/keys";
import { MASK_LOOKS, type MaskLook } from "../model/tint";
import { along } from "../stations";
import { useKeeps } from "../stores/keeps";
import { useProof } from "../stores/proof";
import { useScene } from "../stores/scene";
import { useDrawer } from "../stores/drawer";
import { useTour } from "../stores/tour";
import { useView } from "../stores/view";
import { useZoom } from "./zoom";

export const ZOOMS = [
  { zoom: 0, label: "Whole", key: "w", says: "the whole picture" },
  { zoom: 1, label: "100 %", key: "r", says: "100 %" },
  { zoom: 2, label: "200 %", key: "t", says: "200 %" },
];
/** What cannot be given another key. */
const FIXED: [string, string][] = [
  ["digits", "hold to preview a check, tap to keep it"],
  ["Escape", "let go: a check, a drag, a tool, a latch, a panel"],
  ["wheel", "larger or smaller about the pointer; two fingers, too"],
  ["Space, middle button", "carry the picture, whatever is in hand"],
  ["arrows, + and − on the picture", "carry it, larger, smaller"],
  ["arrows, Enter on it with a tool", "aim, and point there"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["arrows, digits on a number", "change it (Shift: finely), type it"],
];
/** A key held shorter than this, ms, pins what it shows. */
const TAP = 260;
const TYPING = "input:not([type=range]):not([type=radio]):not([type=checkbox]), textarea, select";

export function useSceneKeys(sceneId: () => string, router: Router) {
  const scene = useScene();
  const view = useView();
  const drawer = useDrawer();
  const keeps = useKeeps();
  const zoomTo = useZoom();
  let since = 0;
  let compared = 0;

  function toggle(what: string): void {
    if (view.comparing === what) return view.letGo();
    view.comparing = what;
    view.pinned = true;
  }
  const checks = CHECKS.map((check): Action => ({
    name: `check ${check.what}`,
    says: `look through: ${labelOf(check, "Light")}`,
    key: check.key,
    run() {
      since = performance.now();
      if (view.pinned && view.comparing === check.what) {
        view.letGo();
        since = 0;
        return;
      }
      view.comparing = check.what;
      view.pinned = false;
    },
    up() {
      if (!since || view.comparing !== check.what) return;
      if (performance.now() - since < TAP) view.pinned = true;
      else view.letGo();
    },
    away: () => void (since && view.comparing === check.what && view.letGo()),
  }));
  const zooms = ZOOMS.map((z): Action => ({
    name: `zoom ${z.zoom}`,
    says: z.says,
    key: z.key,
    run: () => zoomTo(z.zoom),
  }));
  const go = (by: 1 | -1) => {
    const way = along(view.station, by, sceneId(), scene.opened?.outing);
    if (way) void router.push(way);
  };
  useKeys().add(
    ...zooms,
    ...checks,
    {
      name: "mask look",
      says: "the next look of the mask",
      key: "h",
      run() {
        const looks = Object.keys(MASK_LOOKS) as MaskLook[];
        view.look = looks[(looks.indexOf(view.look) + 1) % looks.length]!;
      },
    },
    { name: "booth", says: "surround: grey, white, black", key: "b", run: view.turnSurround },
    {
      name: "keep",
      says: "keep this state, to come back to and compare with",
      key: "a",
      run: () => void keeps.keep(),
    },
    {
      name: "compare",
      says: "compare now with the state before, split by a line",
      key: "z",
      run() {
        compared = performance.now();
        if (keeps.way) keeps.end();
        else void keeps.compare(keeps.keeps.at(-1)?.id ?? "light");
      },
      // held, it is let go with the key; tapped, it stays
      up: () => void (performance.now() - compared > TAP && keeps.end()),
      away: keeps.end,
    },
    { name: "facts", says: "the frame's exposure data", key: "i", run: () => drawer.toggle("facts") },
    { name: "export", says: "export", key: "o", run: () => drawer.toggle("export") },
    { name: "back", says: "back along the path", key: "[", run: () => go(-1) },
    { name: "on", says: "on along the path", key: "]", run: () => go(1) },
    { name: "keys", says: "these keys", key: "?", run: () => drawer.toggle("keys") },
  );

  useEventListener(window, "keydown", (e) => {
    const typing = (e.target as HTMLElement).closest?.(TYPING);
    if (e.key.toLowerCase() === "z" && (e.ctrlKey || e.metaKey) && !typing) {
      e.preventDefault();
      void scene.step(e.shiftKey ? "redo" : "undo");
    } else if (e.key === "Escape") letGo();
  });
  function letGo(): void {
    if (scene.dragging) scene.restore();
    else if (view.comparing) view.letGo();
    else if (useTour().at >= 0) useTour().end();
    else if (view.sheet) view.sheet = false;
    else if (useProof().strip && view.station === "Proof") useProof().strip = false;
    else if (keeps.way) keeps.end();
    else if (view.tool) view.tool = "";
    else if (drawer.open) drawer.close();
    else if (scene.openLatch) scene.openLatch = null;
    else scene.openMove = null;
  }
  return { toggle, zoomTo, FIXED };
}
