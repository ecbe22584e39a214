/** The camera turned by dragging the picture: what is taken hold of goes along with the pointer. */
import type { Ref } from "vue";

import type { Frame, Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

const DEGREES = 180 / Math.PI;
const MOST = 40;
/** A drag with Shift turns by so much of it. */
const FINE = 0.2;

/** Lean and swing after a drag by so many px of the stage; `unit`: px of the stage in long edges, `focal` likewise. */
export function turned(
  from: { lean: number; swing: number },
  by: Spot,
  unit: number,
  focal: number,
): { lean: number; swing: number } {
  const angle = (px: number) => Math.atan((px * unit) / focal) * DEGREES;
  const within = (v: number) => Math.round(Math.min(MOST, Math.max(-MOST, v)) * 100) / 100;
  // a camera that stood turned to the right has drawn things too far to the left
  return { lean: within(from.lean - angle(by.y)), swing: within(from.swing + angle(by.x)) };
}

export function useTurning(frame: Ref<Frame>) {
  const scene = useScene();
  const view = useView();
  let held: { at: Spot; from: { lean: number; swing: number } } | null = null;

  function begin(at: Spot): boolean {
    if (view.tool !== "turn") return false;
    const { lean, swing } = scene.ground("plumb").params as { lean: number; swing: number };
    held = { at, from: { lean, swing } };
    return true;
  }
  function move(at: Spot, finely: boolean): boolean {
    if (!held || !scene.map) return false;
    const share = finely ? FINE : 1;
    const by = { x: (at.x - held.at.x) * share, y: (at.y - held.at.y) * share };
    const box = scene.map.box;
    const unit = (box[2]! - box[0]!) / frame.value.width;
    Object.assign(scene.ground("plumb").params, turned(held.from, by, unit, scene.state?.focal ?? 1));
    scene.touched();
    return true;
  }
  async function end(): Promise<void> {
    if (!held) return;
    held = null;
    if (!scene.dragging) return;
    const line = scene.ground("plumb");
    line.why = "";
    await scene.commit("Plumb by hand");
  }
  function cancel(): boolean {
    const was = !!held;
    held = null;
    if (was && scene.dragging) scene.restore();
    return was;
  }
  return { begin, move, end, cancel };
}
