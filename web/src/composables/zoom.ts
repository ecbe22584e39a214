/** Closer, and back to the whole. */
import { middleOf } from "../model/repairs";
import { useMend } from "../stores/mend";
import { useScene } from "../stores/scene";
import { within } from "../picture/viewport";
import { useView } from "../stores/view";

/** From the whole, one comes to what is open: a repair to be judged at its own px. */
export function useZoom() {
  const scene = useScene();
  const view = useView();
  const mend = useMend();
  return (zoom: number): void => {
    const open = view.station === "Mend" ? mend.open : null;
    if (zoom && !view.zoom && open && open.kind !== "specks" && scene.plane) {
      const { x, y } = scene.plane.toPicture(middleOf(open));
      view.centre = { x: within(x), y: within(y) };
    }
    view.zoom = zoom;
  };
}
