/** A finished picture teaches best: its lines that say why they are there, in the order of the path, each with and without, at
 * the place where it shows. */
import { defineStore } from "pinia";
import { computed, ref, watch } from "vue";

import type { Kind } from "../api/client";
import { middleOf, readsAs, type AnyRepair } from "../model/repairs";
import { sentence, type Values } from "../model/wording";
import { useScene } from "./scene";
import { useView } from "./view";

/** What a line holds is shown for so long, ms, when one comes to it. */
const SHOWN = 1400;
interface Step {
  station: string;
  /** The line, by its id; of Ground by its kind. */
  id: string;
  line: string;
  why: string;
  /** There is a picture without it. */
  apart: boolean;
  latch?: string | null;
  repair?: AnyRepair;
}

export const useTour = defineStore("tour", () => {
  const scene = useScene();
  const view = useView();
  const repairs = computed(() => (scene.document?.repairs ?? []) as AnyRepair[]);
  const kindOf = (kinds: Kind[], kind: string) => kinds.find((k) => k.kind === kind);
  function ground(): Step[] {
    return scene.groundKinds.flatMap((kind) => {
      const { on, why, params } = scene.ground(kind.kind);
      if (!on || !why) return [];
      const joins = kind.kind === "projection";
      const line = sentence(kind, params as Values);
      return [{ station: joins ? "Join" : "Ground", id: kind.kind, line, why, apart: !joins }];
    });
  }
  function mended(): Step[] {
    return repairs.value
      .filter((r) => r.on && r.note)
      .map((repair) => {
        const line = readsAs(repair, kindOf(scene.vocabulary?.moves ?? [], repair.kind));
        const named = repair.name ? `${line} (${repair.name})` : line;
        return { station: "Mend", id: repair.id, line: named, why: repair.note, apart: true, repair };
      });
  }
  function lit(): Step[] {
    return scene.moves.flatMap((m) => {
      const kind = kindOf(scene.lightKinds, m.kind);
      if (!m.on || !m.note || !kind) return [];
      const on = scene.nameOf(m.latch);
      const line = sentence(kind, m.params as Values) + (on ? ` on ${on}` : "");
      return [{ station: "Light", id: m.id, line, why: m.note, apart: true, latch: m.latch }];
    });
  }
  /** Somebody has written why; that a finder has is not yet a lesson. */
  const told = computed(() => scene.moves.some((m) => m.note) || repairs.value.some((r) => r.note));
  const steps = computed<Step[]>(() => {
    if (!told.value) return [];
    const all = [...ground(), ...mended(), ...lit()];
    // the path's own order: Join before Ground
    return [...all.filter((s) => s.station === "Join"), ...all.filter((s) => s.station !== "Join")];
  });
  /** The step one is at; −1 while nobody is led. */
  const at = ref(-1);
  const step = computed(() => steps.value[at.value] ?? null);
  const without = computed(() => view.comparing === "line");

  function go(to: number): void {
    at.value = Math.max(0, Math.min(to, steps.value.length - 1));
  }
  /** The step as it lies in the picture, once its station is there. */
  function show(): void {
    const now = step.value;
    if (!now) return;
    view.letGo();
    scene.openLatch = null;
    scene.openMove = now.id;
    view.zoom = 0;
    if (now.repair && scene.plane) {
      // at its own px: of the whole picture it may not be seen at all
      view.centre = scene.plane.toPicture(middleOf(now.repair));
      view.zoom = 1;
    }
    const { latch } = now;
    if (!latch) return;
    // where it acts is seen first, then what it does
    view.peek = latch;
    window.setTimeout(() => view.peek === latch && (view.peek = ""), SHOWN);
  }
  /** The picture without the step, and with it again. */
  function toggle(): void {
    if (without.value) return view.letGo();
    view.peek = "";
    view.comparing = "line";
    view.pinned = true;
  }
  function end(): void {
    at.value = -1;
    view.peek = "";
    view.zoom = 0;
    view.letGo();
  }
  watch(
    () => scene.opened?.id,
    () => at.value >= 0 && end(),
  );
  // one who goes elsewhere along the path is not led any more
  watch(
    () => view.station,
    (station) => step.value && station !== step.value.station && end(),
  );
  return { steps, at, step, without, go, show, toggle, end };
});
