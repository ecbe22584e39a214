/** The value under the pointer, and what the opened latch says of the place. */
import { client, need } from "../api/client";
import type { Spot } from "../model/plane";
import { Newest } from "../stores/pictures";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import { signedStops } from "../model/wording";

export function useReading() {
  const scene = useScene();
  const view = useView();
  const spots = new Newest<string>(
    (said) => (view.spot = said),
    () => (view.spot = "could not be read"),
  );
  let soon = 0;

  async function ask(id: string, at: Spot): Promise<string> {
    const body = { document: scene.current(), ...at };
    const params = { path: { scene_id: id } };
    const s = await need(client.POST("/api/scenes/{scene_id}/spot", { params, body }));
    if (scene.latch)
      view.why = await need(
        client.POST("/api/scenes/{scene_id}/why", { params, body: { ...body, latch: scene.latch.id! } }),
      );
    return `${signedStops(s.now)} stops, prints ${s.words} (was ${signedStops(s.start)})`;
  }
  function forget(): void {
    window.clearTimeout(soon);
    view.spot = "";
    view.why = null;
  }
  function read(at: Spot): void {
    window.clearTimeout(soon);
    if (at.x < 0 || at.y < 0 || at.x > 1 || at.y > 1) return forget();
    soon = window.setTimeout(() => {
      const id = scene.opened?.id;
      if (id && !scene.dragging) spots.ask(() => ask(id, at));
    }, 90);
  }
  return { read, forget };
}
