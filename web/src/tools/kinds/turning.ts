/** The camera turned by dragging the picture: what is taken hold of goes along with the pointer. */
import type { Spot } from "../../model/plane";
import { useScene } from "../../stores/scene";
import type { Hand, Tool } from "../tool";

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

/** An angle between −180 and 180°. */
export const around = (v: number): number => Math.round((v - 360 * Math.round(v / 360)) * 100) / 100;

export default function turning(hand: Hand): Record<string, Tool> {
  const scene = useScene();
  let held: { at: Spot; from: { lean: number; swing: number } } | null = null;
  /** A sweep is turned on its sphere: all the way round, by where it faces. */
  const sweep = () => scene.document?.base?.kind === "sweep";
  const facing = () => scene.ground("projection").params as { facing: number };

  const turn: Tool = {
    says: "Drag the picture: the camera turns with it. Shift turns it finely.",
    cursor: "move",
    down(at) {
      const { lean, swing } = scene.ground("plumb").params as { lean: number; swing: number };
      held = { at: at.stage, from: { lean, swing: sweep() ? -facing().facing : swing } };
    },
    move(at) {
      if (!held || !scene.map) return;
      const share = at.shift ? FINE : 1;
      const by = { x: (at.stage.x - held.at.x) * share, y: (at.stage.y - held.at.y) * share };
      const box = scene.map.box;
      const unit = (box[2]! - box[0]!) / hand.frame.value.width;
      const focal = scene.state?.focal ?? 1;
      if (sweep()) {
        const angle = ((by.x * unit) / focal) * DEGREES;
        facing().facing = around(-held.from.swing - angle);
        scene.ground("plumb").params.lean = turned(held.from, by, unit, focal).lean;
      } else Object.assign(scene.ground("plumb").params, turned(held.from, by, unit, focal));
      scene.touched();
    },
    async up() {
      if (!held) return;
      held = null;
      if (!scene.dragging) return;
      const line = scene.ground("plumb");
      line.why = "";
      await scene.commit(sweep() ? "Sweep turned" : "Plumb by hand");
    },
    cancel() {
      const was = !!held;
      held = null;
      if (was && scene.dragging) scene.restore();
      return was;
    },
  };
  return { turn };
}
