/** Skies of the outing: those that would fit, and one that is brought. */
import { client, need } from "../../api/client";
import { dropUnused } from "../../model/sources";
import type { Mending } from "./asked";

export function skyWork({ scene, asked, params }: Mending) {
  /** The outing's other frames, those first whose skies would fit the best; null where that is not wanted any more. */
  const skies = () =>
    scene.errand("skies", async (at) => {
      const offered = await asked(at, "looking at the outing's skies", (work) =>
        need(
          client.POST("/api/scenes/{scene_id}/mend/skies", {
            params: params(at),
            body: { document: at.now() as never, work },
          }),
        ),
      );
      return at.here() ? offered : null;
    });
  /** The sky of another frame, with the latch that lets it in. */
  const bringSky = (frame: { id: string; name: string }): Promise<boolean> =>
    scene.errand("sky", async (at) => {
      const got = await asked(at, "finding the sky, and placing the other", (work) =>
        need(
          client.POST("/api/scenes/{scene_id}/mend/sky", {
            params: params(at),
            body: { document: at.now() as never, frame: frame.id, work },
          }),
        ),
      );
      if (!got || !at.wanted()) return false;
      at.done((document) => {
        if (!document.sources.some((s) => s.id === got.source.id)) document.sources.push(got.source);
        if (!document.latches.some((l) => l.id === got.latch.id)) document.latches.push(got.latch as never);
        const before = document.sky?.source;
        document.sky = got.sky;
        if (before) dropUnused(document, before);
      }, "New sky");
      return true;
    });
  return { skies, bringSky };
}
