import { createPinia, setActivePinia } from "pinia";
import { beforeEach, expect, it, vi } from "vitest";
import { ref } from "vue";

import type { MoveLine, SceneDocument } from "../api/client";
import { PointerLayer } from "../picture/pointer";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import { toolsFor } from "./index";

const hand = { frame: ref({ left: 0, top: 0, width: 100, height: 100 }) };
const field = (name: string, value: unknown) => ({ name, default: value, low: 0, high: 1, kind: "number" });
let scene: ReturnType<typeof useScene>;

beforeEach(() => {
  vi.restoreAllMocks();
  setActivePinia(createPinia());
  scene = useScene();
  scene.vocabulary = {
    brush: [field("size", 0.02), field("soft", 0.3)],
    nudge_brush: [
      field("radius", 0.05),
      field("strength", 0.5),
      { ...field("verb", "carry"), kind: "choice" },
    ],
    pulled: [field("amount", 0.3), field("soft", 0.1)],
    moves: ["reshape", "nudge", "new_sky"].map((kind) => ({ kind, revision: 1, fields: [] })),
    ingredients: [],
  } as never;
  scene.opened = { id: "s", name: "ridge", sources: [], as_shot: {} } as never;
  scene.map = { box: [0, 0, 1, 0.66], mesh: { start: [0, 0], step: 0.1, columns: 4, source: "" } } as never;
  vi.spyOn(scene, "plane", "get").mockReturnValue({
    width: 300, height: 200, toSource: (p: object) => ({ ...p }), toPicture: (p: object) => ({ ...p }),
  } as never); // prettier-ignore
  scene.document = {
    moves: [] as MoveLine[], latches: [], groups: [], repairs: [], shapes: [], sources: [], base: { kind: "frame" },
    ground: { plumb: { params: { lean: 0, swing: 0, lines: [] } }, projection: { params: { facing: 0 } } },
  } as unknown as SceneDocument; // prettier-ignore
  scene.restore = vi.fn(() => (scene.dragging = scene.dirty = false));
});

const event = (x: number, y: number) =>
  ({
    clientX: x, clientY: y, pointerId: 1, pointerType: "mouse", button: 0, pressure: 0.5, shiftKey: false,
    timeStamp: 0, preventDefault: () => undefined,
  }) as PointerEvent; // prettier-ignore

// those that only take a place where the pointer comes up have nothing under way
const names = [
  "upright",
  "box",
  "heal",
  "clone",
  "speck",
  "wire",
  "regrow",
  "hide",
  "pin",
  "pull nearer",
  "nudge",
  "turn",
];
it.each(names)("Escape in the middle of %s leaves nothing, and no movement after it draws", (name) => {
  const commit = vi.spyOn(scene, "commit").mockResolvedValue(undefined);
  const ask = vi.spyOn(globalThis, "fetch").mockRejectedValue(new Error("asked"));
  useView().tool = name;
  const tool = toolsFor(hand)[name]!;
  const element = { getBoundingClientRect: () => ({ left: 0, top: 0 }) } as HTMLElement;
  const nothing = () => undefined;
  const layer = new PointerLayer(() => element, {
    down: (p) => !!tool.down && tool.down(p) !== false,
    move: (p) => tool.move?.(p),
    up: (p) => void tool.up?.(p),
    cancel: () => void tool.cancel?.(),
    hover: nothing, panBy: nothing, zoomBy: nothing, scaleBy: nothing,
  }); // prettier-ignore
  layer.down(event(10, 10));
  const early = name === "heal" || name === "clone" ? 0 : 12;
  for (let n = 1; n < early; n++) layer.move(event(10 + 5 * n, 10 + (n % 3) * 9));
  expect(layer.leave()).toBe(true);
  for (let n = 1; n < 20; n++) layer.move(event(60 - 2 * n, 60 - n));
  layer.up(event(20, 20));
  expect(commit).not.toHaveBeenCalled();
  expect(ask).not.toHaveBeenCalled();
  expect(tool.busy?.() ?? false).toBe(false);
  expect(scene.dirty).toBe(false);
});
