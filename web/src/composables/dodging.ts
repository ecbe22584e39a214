/** Light painted on: one Exposure line and its Hand latch, whose brush is in the hand at once. */
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

export function useDodging() {
  const scene = useScene();
  const view = useView();

  /** Go on with the line of that name where it is still what was painted; else begin one. */
  function paint(name: string, stops: number): void {
    const hand = scene.ingredientKinds.find((k) => k.kind === "hand");
    const exposure = scene.lightKinds.find((k) => k.kind === "exposure");
    if (!hand || !exposure || !scene.document) return;
    const line = scene.moves.findLast((m) => m.kind === "exposure" && m.name === name && m.on);
    const latch = scene.latches.find((l) => l.id === line?.latch);
    const brush = latch?.ingredients.findLast((i) => i.kind === "hand" && i.on);
    scene.openMove = null;
    if (latch && brush) {
      scene.openLatch = latch.id!;
      scene.openIngredient = brush.id!;
    } else {
      const made = scene.freshLatch(scene.freeName(name), false);
      scene.document.latches.push(made);
      scene.openLatch = made.id!;
      const begun = scene.lineOf(exposure, { ev: stops });
      scene.document.moves.push({ ...begun, name, latch: made.id });
      scene.addIngredient(hand, "add", `${made.name}`);
    }
    view.tool = "paint";
  }
  return { paint };
}
