/** This frame here: painted where one of a join's frames is to be shown, or believed. */
import { ref } from "vue";

import type { Schemas } from "../../api/client";
import { onPicture, type Spot } from "../../model/plane";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import BrushMarks from "../BrushMarks.vue";
import type { Hand } from "../tool";
import type { BrushTool } from "./painting";

/** The brush, in long edges: seams are decided small, and moved by so much at least. */
const SIZE = 0.03;
const APART = 3;

export default function framing(hand: Hand): Record<string, BrushTool> {
  const scene = useScene();
  const view = useView();
  const path = ref<Spot[]>([]);
  const cursor = ref<Spot | null>(null);

  const joined = () => {
    const base = scene.document?.base;
    return base && base.kind !== "frame" ? base : null;
  };
  function radius(): number {
    const box = scene.map?.box;
    return box ? (SIZE * hand.frame.value.width) / (box[2]! - box[0]!) : 0;
  }
  function add(at: Spot): void {
    const before = path.value.at(-1);
    if (!before || Math.hypot(at.x - before.x, at.y - before.y) >= APART) path.value.push(at);
  }
  async function laid(drawn: Spot[]): Promise<void> {
    const base = joined();
    if (!drawn.length || !base || !scene.plane || !view.framing) return;
    const points = drawn.slice(0, 3000).flatMap((p) => {
      const { x, y } = scene.plane!.toSource(onPicture(hand.frame.value, p));
      return [Number(x.toFixed(6)), Number(y.toFixed(6)), 1];
    });
    const stroke = { points, radius: SIZE, soft: 0, flow: 1, erase: false, seek: false };
    (base.painted ??= []).push({ source: view.framing, stroke } as Schemas["Painted"]);
    const name = scene.opened?.sources.find((s) => s.id === view.framing)?.name ?? "a frame";
    await scene.commit(`Paint ${name} in`);
  }
  const tool: BrushTool = {
    says: "Paint where this frame is to be shown.",
    draws: BrushMarks,
    radius,
    path: () => path.value,
    cursorAt: () => cursor.value,
    down(at) {
      path.value = [];
      add(at.stage);
    },
    move(at) {
      cursor.value = at.stage;
      for (const some of at.between) add(some.stage);
    },
    hover: (at) => void (cursor.value = at?.stage ?? null),
    async up() {
      const drawn = path.value;
      await laid(drawn);
      if (path.value === drawn) path.value = [];
    },
    cancel() {
      const was = path.value.length > 0;
      path.value = [];
      return was;
    },
    key(at) {
      const { left, top, width, height } = hand.frame.value;
      void laid([{ x: left + at.x * width, y: top + at.y * height }]);
    },
    busy: () => path.value.length > 0,
  };
  return { "this frame": tool };
}
