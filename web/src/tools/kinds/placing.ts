/** The new sky carried behind what stands before it. */
import type { Spot } from "../../model/plane";
import { useScene } from "../../stores/scene";
import { within } from "../../model/wording";
import type { Hand, Tool } from "../tool";

interface Laid {
  across: number;
  down: number;
}

/** How far it goes at a time where there is no pointer, in long edges. */
const STEP = 0.01;

export default function placing(hand: Hand): Record<string, Tool> {
  const scene = useScene();
  let from: (Laid & { at: Spot }) | null = null;
  const params = () => scene.document?.sky?.params as Laid | undefined;
  /** Put it somewhere, as far as it may be carried. */
  function put(now: Laid, to: Laid): void {
    const fields = scene.vocabulary!.moves.find((k) => k.kind === "new_sky")!.fields;
    for (const name of ["across", "down"] as const)
      now[name] = within(
        fields.find((f) => f.name === name)!,
        to[name],
      );
  }
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
      const [dx, dy] = [(at.stage.x - from.at.x) * per, (at.stage.y - from.at.y) * per];
      put(now, { across: from.across + dx, down: from.down + dy });
      scene.touched();
    },
    async up() {
      const carried = from !== null && scene.dragging;
      from = null;
      if (carried) await scene.commit("Move sky");
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
      const [right, lower] = [Math.sign(at.x - 0.5), Math.sign(at.y - 0.5)];
      put(now, { across: now.across + right * STEP, down: now.down + lower * STEP });
      void scene.commit("Move sky");
    },
  };
  return { "place sky": tool };
}
