/** Lines drawn on the picture: for Plumb, and along the horizon. */
import { ref, type Ref } from "vue";

import type { Schemas } from "../api/client";
import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import { useView, type Tool } from "../stores/view";
import { usePlumb } from "./plumb";

const DRAWN: Tool[] = ["upright", "level", "horizon"];

export function useLines(frame: Ref<Frame>) {
  const scene = useScene();
  const view = useView();
  const { lines, solve } = usePlumb();
  const drawing = ref<{ a: Spot; b: Spot } | null>(null);

  function begin(at: Spot): void {
    if (DRAWN.includes(view.tool)) drawing.value = { a: at, b: at };
  }
  /** True while a line is drawn. */
  function move(at: Spot): boolean {
    if (drawing.value) drawing.value = { a: drawing.value.a, b: at };
    return drawing.value !== null;
  }
  async function end(): Promise<void> {
    const drawn = drawing.value;
    drawing.value = null;
    if (!drawn || Math.hypot(drawn.b.x - drawn.a.x, drawn.b.y - drawn.a.y) < 12) return;
    const [a, b] = [drawn.a, drawn.b].map((p) => scene.plane!.toSource(onPicture(frame.value, p)));
    if (view.tool === "horizon") {
      view.tool = "";
      const found = await scene.find<Schemas["Level"]>("level", { a, b });
      if (found) await scene.setGround("trim", { level: found.level }, "Level by a drawn horizon");
      return;
    }
    lines().push({ a: a!, b: b!, what: view.tool as "upright" | "level" });
    await solve("Plumb");
  }
  /** Without a pointer: a line in the middle, whose ends the arrow keys then move. */
  function inTheMiddle(): void {
    if (!DRAWN.includes(view.tool)) return;
    const upright = view.tool === "upright";
    const [a, b] = [-0.15, 0.15].map((d) =>
      onStage(frame.value, { x: 0.5 + (upright ? 0 : d), y: 0.5 + (upright ? d : 0) }),
    );
    drawing.value = { a: a!, b: b! };
    void end();
  }
  function cancel(): boolean {
    const was = drawing.value !== null;
    drawing.value = null;
    return was;
  }
  return { drawing, lines, solve, begin, move, end, inTheMiddle, cancel };
}
