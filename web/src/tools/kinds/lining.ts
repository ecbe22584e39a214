/** Lines drawn on the picture: for Plumb, and along the horizon. */
import { shallowRef } from "vue";

import type { Schemas } from "../../api/client";
import { usePlumb } from "../../composables/plumb";
import { onPicture, onStage, type Spot } from "../../model/plane";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import DrawnLine from "../DrawnLine.vue";
import type { Hand, Tool } from "../tool";

export interface LineTool extends Tool {
  /** The line being drawn, on the stage. */
  line(): { a: Spot; b: Spot } | null;
}

export default function lining(hand: Hand): Record<string, Tool> {
  const scene = useScene();
  const view = useView();
  const { lines, solve } = usePlumb();
  const line = shallowRef<{ a: Spot; b: Spot } | null>(null);

  async function plumb(what: "upright" | "level", a: Spot, b: Spot): Promise<void> {
    lines().push({ a, b, what });
    await solve("Plumb");
  }
  async function horizon(a: Spot, b: Spot): Promise<void> {
    view.tool = "";
    const found = await scene.find<Schemas["Level"]>("level", { a, b });
    if (found) await scene.setGround("trim", { level: found.level }, "Level horizon");
  }
  function drawing(says: string, upright: boolean, put: (a: Spot, b: Spot) => Promise<void>): LineTool {
    async function end(): Promise<void> {
      const drawn = line.value;
      line.value = null;
      if (!drawn || Math.hypot(drawn.b.x - drawn.a.x, drawn.b.y - drawn.a.y) < 12) return;
      const [a, b] = [drawn.a, drawn.b].map((p) => scene.plane!.toSource(onPicture(hand.frame.value, p)));
      await put(a!, b!);
    }
    return {
      says,
      line: () => line.value,
      draws: DrawnLine,
      down: (at) => void (line.value = { a: at.stage, b: at.stage }),
      move: (at) => void (line.value &&= { a: line.value.a, b: at.stage }),
      up: end,
      cancel() {
        const was = line.value !== null;
        line.value = null;
        return was;
      },
      // without a pointer: a line in the middle, whose ends the arrow keys then move
      key() {
        const [a, b] = [-0.15, 0.15].map((d) =>
          onStage(hand.frame.value, { x: 0.5 + (upright ? 0 : d), y: 0.5 + (upright ? d : 0) }),
        );
        line.value = { a: a!, b: b! };
        void end();
      },
      busy: () => line.value !== null,
    };
  }
  return {
    upright: drawing("Draw along something that should be upright.", true, (a, b) => plumb("upright", a, b)),
    level: drawing("Draw along something that should be level.", false, (a, b) => plumb("level", a, b)),
    horizon: drawing("Draw along the horizon.", false, horizon),
  };
}
