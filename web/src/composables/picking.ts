/** Colours read off the picture, as wide as a fingertip. */
import { client, need, of, type IngredientLine } from "../api/client";
import type { Ref } from "vue";

import type { Frame, Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

/** How wide a patch is read, px of the screen: as wide as a fingertip. */
export const FINGERTIP = 22;

/** `frame`: where the picture lies on the stage. */
export function usePicking(frame: Readonly<Ref<Frame>>) {
  const scene = useScene();
  const view = useView();
  const across = () => Math.min(0.2, FINGERTIP / Math.max(frame.value.width, frame.value.height));

  /** Shows the patch that was taken, and what of it was. */
  function shown<T extends { shown: string }>(at: Spot, got: T): T {
    view.taken = { at, across: across(), shown: got.shown };
    return got;
  }
  /** The leading colour at a place as a latch reads it, or as it would be read now. */
  async function sampled(latch: string, at: Spot) {
    const got = await need(
      client.POST("/api/scenes/{scene_id}/sample", {
        params: { path: { scene_id: scene.opened!.id } },
        body: { document: scene.current(), latch, across: across(), ...at },
      }),
    );
    return shown(at, got);
  }

  /** A sample carried elsewhere is picked anew. */
  function again(line: IngredientLine, n: number): void {
    const samples = of(line, "colour").params.samples;
    const work = scene.errand("pick", async (at) => {
      try {
        const got = await sampled(scene.latch!.id!, scene.plane!.toPicture(samples[n]!.at));
        if (!at.here()) return;
        Object.assign(samples[n]!, { at: got.at, l: got.l, a: got.a, b: got.b });
        await scene.commit("Move sample");
      } catch (error) {
        if (!at.open()) return;
        scene.restore();
        scene.notices.tell("picking", error);
      }
    });
    void work;
  }

  /** The leading colour at a place as the open move sees it. */
  async function picked(at: Spot) {
    const got = await need(
      client.POST("/api/scenes/{scene_id}/pick", {
        params: { path: { scene_id: scene.opened!.id } },
        body: { document: scene.current(), move: scene.openMove ?? "", across: across(), ...at },
      }),
    );
    return shown(at, got);
  }
  return { sampled, picked, again };
}
