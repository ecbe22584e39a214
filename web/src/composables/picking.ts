/** Places pointed at on the picture: something neutral, or a colour for the open Colour ingredient. */
import { client, need } from "../api/client";
import type { Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

export function usePicking() {
  const scene = useScene();
  const view = useView();

  async function neutral(at: Spot): Promise<void> {
    view.tool = "";
    const light = await need(
      client.POST("/api/scenes/{scene_id}/neutral", {
        params: { path: { scene_id: scene.opened!.id } },
        body: { document: scene.current() as never, ...at },
      }),
    );
    await scene.setGround("colour_of_light", { ...light }, "Colour of light picked");
  }

  async function colour(at: Spot, take: boolean): Promise<void> {
    const line = scene.latch?.ingredients.find((i) => i.id === scene.openIngredient && i.kind === "colour");
    if (!line) return;
    const got = await need(
      client.POST("/api/scenes/{scene_id}/sample", {
        params: { path: { scene_id: scene.opened!.id } },
        body: { document: scene.current() as never, latch: scene.latch!.id!, ...at },
      }),
    );
    const sample = { at: got.at, l: got.l, a: got.a, b: got.b, take };
    (line.params as unknown as { samples: unknown[] }).samples.push(sample);
    await scene.commit(take ? "A colour picked" : "A colour taken away");
  }

  /** Take a place, if the tool in hand takes places. A refusal is said. */
  function take(at: Spot): boolean {
    const work =
      view.tool === "neutral"
        ? neutral(at)
        : view.tool === "sample" || view.tool === "unsample"
          ? colour(at, view.tool === "sample")
          : null;
    work?.catch((error: Error) => (scene.problem = error.message));
    return work !== null;
  }
  return { take };
}
