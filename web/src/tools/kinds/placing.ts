/** The new sky carried behind what stands before it. */
import type { Spot } from "../../model/plane";
import { useScene } from "../../stores/scene";
import type { Hand, Tool } from "../tool";

/** Px a step of an arrow key is worth, where there is no pointer. */
const STEP = 0.01;

export default function placing(hand: Hand): Record<string, Tool> {
  const scene = useScene();
  let from: { at: Spot; across: number; down: number } | null = null;
  const params = () => scene.document?.sky?.params as { across: number; down: number } | undefined;
  const held = (v: number) => Math.min(2, Math.max(-2, Number(v.toFixed(5))));
  const tool: Tool = {
    says: "Drag the sky to where it belongs.",
    cursor: "move",
    down(at) {
      const now = params();
      if (!now) return false;
      from = { at: at.stage, across: now.across, down: now.down };
    },
    move(at) {
      const now = params();
      const box = scene.map?.box;
      if (!from || !now || !box) return;
      const per = (box[2]! - box[0]!) / hand.frame.value.width;
      now.across = held(from.across + (at.stage.x - from.at.x) * per);
      now.down = held(from.down + (at.stage.y - from.at.y) * per);
      scene.touched();
    },
    async up() {
      if (from && scene.dragging) await scene.commit("The sky carried");
      from = null;
    },
    cancel() {
      const was = from !== null;
      from = null;
      if (was && scene.dragging) scene.restore();
      return was;
    },
    // without a pointer: toward where the arrow keys have aimed
    key(at) {
      const now = params();
      if (!now) return;
      now.across = held(now.across + Math.sign(at.x - 0.5) * STEP);
      now.down = held(now.down + Math.sign(at.y - 0.5) * STEP);
      void scene.commit("The sky carried");
    },
  };
  return { "place sky": tool };
}
