/** A rough box drawn around the open Subject. */
import { ref, type Ref } from "vue";

import { onPicture, type Frame, type Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

export function useBoxing(frame: Ref<Frame>) {
  const scene = useScene();
  const view = useView();
  const box = ref<{ a: Spot; b: Spot } | null>(null);

  function begin(at: Spot): boolean {
    if (view.tool !== "box") return false;
    box.value = { a: at, b: at };
    return true;
  }
  function move(at: Spot): boolean {
    if (box.value) box.value = { a: box.value.a, b: at };
    return box.value !== null;
  }
  async function put(a: Spot, b: Spot): Promise<void> {
    const line = scene.latch?.ingredients.find((i) => i.id === scene.openIngredient);
    if (!line || !scene.plane) return;
    const [one, other] = [a, b].map((p) => scene.plane!.toSource(p));
    (line.params as unknown as { box: unknown }).box = { one, other };
    view.tool = "";
    await scene.commit("Box around the subject");
  }
  async function end(): Promise<void> {
    const drawn = box.value;
    box.value = null;
    if (!drawn || Math.hypot(drawn.b.x - drawn.a.x, drawn.b.y - drawn.a.y) < 8) return;
    await put(onPicture(frame.value, drawn.a), onPicture(frame.value, drawn.b));
  }
  /** Without a pointer: a box in the middle, whose corners the arrow keys then move. */
  function inTheMiddle(): void {
    if (view.tool === "box") void put({ x: 0.4, y: 0.35 }, { x: 0.6, y: 0.65 });
  }
  function cancel(): boolean {
    const was = box.value !== null;
    box.value = null;
    return was;
  }
  return { box, begin, move, end, inTheMiddle, cancel };
}
