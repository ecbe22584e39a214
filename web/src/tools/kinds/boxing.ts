/** A rough box drawn around the open Subject. */
import { of } from "../../api/client";
import { shallowRef } from "vue";

import { onPicture, type Spot } from "../../model/plane";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import DrawnBox from "../DrawnBox.vue";
import type { Hand, Tool } from "../tool";

export interface BoxTool extends Tool {
  /** The box being drawn, on the stage. */
  box(): { a: Spot; b: Spot } | null;
}

export default function boxing(hand: Hand): Record<string, Tool> {
  const scene = useScene();
  const view = useView();
  const box = shallowRef<{ a: Spot; b: Spot } | null>(null);

  async function put(a: Spot, b: Spot): Promise<void> {
    const line = scene.latch?.ingredients.find((i) => i.id === scene.openIngredient);
    if (!line || !scene.plane) return;
    const params = of(line, "subject").params;
    params.box = { one: scene.plane.toSource(a), other: scene.plane.toSource(b) };
    // it is there, whatever was said of what the eye goes to
    params.answer = "found";
    view.tool = "";
    await scene.commit("Draw box");
  }
  const tool: BoxTool = {
    says: "Draw a rough box around it.",
    box: () => box.value,
    draws: DrawnBox,
    down: (at) => void (box.value = { a: at.stage, b: at.stage }),
    move: (at) => void (box.value &&= { a: box.value.a, b: at.stage }),
    async up() {
      const drawn = box.value;
      box.value = null;
      if (!drawn || Math.hypot(drawn.b.x - drawn.a.x, drawn.b.y - drawn.a.y) < 8) return;
      await put(onPicture(hand.frame.value, drawn.a), onPicture(hand.frame.value, drawn.b));
    },
    cancel() {
      const was = box.value !== null;
      box.value = null;
      return was;
    },
    // without a pointer: a box in the middle, whose corners the arrow keys then move
    key: () => void put({ x: 0.4, y: 0.35 }, { x: 0.6, y: 0.65 }),
    busy: () => box.value !== null,
  };
  return { box: tool };
}
