/** Strokes that heal or clone: sketched while they are drawn, finished one after the other, each in the scene it was drawn
 * in. */
import { shallowRef, watch, type ComputedRef } from "vue";

import { client, need, type Schemas } from "../../api/client";
import type { AnyRepair, Area } from "../../model/repairs";
import type { useScene } from "../scene";
import type { Errand } from "../scene/errands";
import type { Asking } from "./asked";

type Stroked = "heal" | "clone";
type Take = Schemas["Take"];
const pointsOf = (area: Area) => (area.strokes ?? []).reduce((n, s) => n + s.points.length, 0) / 3;
const WORDS = { heal: "Heal", clone: "Clone" };

export function strokeWork(
  scene: ReturnType<typeof useScene>,
  repairs: ComputedRef<AnyRepair[]>,
  asked: Asking,
  undo: (id: string) => void,
) {
  /** A stroke under way: its repair as far as it is drawn, in the document and not saved; `points`: of how much of it. */
  const draft = shallowRef<{ id: string; points: number; take: Take; found: number } | null>(null);
  let sketching: Promise<void> | null = null;
  let finishing: Promise<unknown> = Promise.resolve();
  /** Rises when what is being sketched is not wanted any more. */
  let dropped = 0;
  let ending = 0;
  watch(
    () => scene.opened?.id,
    () => {
      dropped++;
      draft.value = null;
    },
  );

  function strokeAsked(at: Errand, kind: Stroked, area: Area): Promise<AnyRepair> {
    const document = at.now();
    const held = at.open() ? draft.value : null;
    document.repairs = document.repairs?.filter((r) => r.id !== held?.id);
    // where it is mended from was found for a part of it: it is looked for again once it is half as long again
    const near = held && pointsOf(area) < 1.5 * held.found ? held.take : null;
    return need(
      client.POST("/api/scenes/{scene_id}/mend/stroke", {
        params: { path: { scene_id: at.scene } },
        body: { document: document as never, kind, area, near },
      }),
    ) as Promise<AnyRepair>;
  }
  /** In place of what was sketched of it before, or as the last line. */
  function putDraft(made: AnyRepair, area: Area): void {
    if (made.kind !== "heal" && made.kind !== "clone") return;
    const before = draft.value;
    const points = pointsOf(area);
    const same = before && before.take.dx === made.take.dx && before.take.dy === made.take.dy;
    made.id = before?.id ?? made.id;
    const others = repairs.value.filter((r) => r.id !== made.id);
    scene.document!.repairs = [...others, made] as never;
    draft.value = { id: made.id, points, take: made.take, found: same ? before.found : points };
    scene.openMove = made.id;
  }
  /** A stroke that is still being drawn, as far as it goes; one at a time, and none while another is being finished. */
  function sketch(kind: Stroked, area: Area): void {
    if (sketching || ending) return;
    const of = dropped;
    sketching = scene
      .errand("sketch", async (at) => {
        const made = await strokeAsked(at, kind, area);
        if (of !== dropped || !at.here()) return;
        putDraft(made, area);
        scene.tryOut();
      })
      // what cannot be mended is said when it is drawn
      .catch(() => undefined)
      .finally(() => (sketching = null));
  }
  function drop(): void {
    dropped++;
    if (!draft.value) return;
    const { id } = draft.value;
    draft.value = null;
    undo(id);
  }
  /** It is not drawn any more, and not kept; one that was drawn to its end is. */
  function dropSketch(): void {
    if (!ending) drop();
  }
  /** A stroke that was drawn to its end. Done when it stands in its scene. */
  function stroke(kind: Stroked, area: Area): Promise<void> {
    ending++;
    return scene.errand("stroke", (at) => {
      const mine = finishing.then(() => finished(at, kind, area)).finally(() => ending--);
      finishing = mine.catch(() => undefined);
      return mine;
    });
  }
  async function finished(at: Errand, kind: Stroked, area: Area): Promise<void> {
    await sketching;
    const made = await asked(at, kind === "heal" ? "healing" : "cloning", () => strokeAsked(at, kind, area));
    if (!at.open()) {
      if (made) at.done((document) => void (document.repairs ??= []).push(made as never), WORDS[kind]);
      return;
    }
    if (!made) return drop();
    putDraft(made, area);
    draft.value = null;
    void scene.commit(WORDS[kind]);
  }
  return { draft, sketch, dropSketch, stroke };
}
