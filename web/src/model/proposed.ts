/** A proposal for Ground taken into a document that may have gone on meanwhile. */
import { groundOf, type SceneDocument } from "../api/client";

/** Lines that the proposal set and nobody has touched since it was asked for. `asked`: the document as it was then. */
export function proposed(asked: SceneDocument, got: SceneDocument, now: SceneDocument): void {
  const [before, after, here] = [asked, got, now].map(groundOf);
  const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
  for (const [kind, line] of Object.entries(after ?? {}))
    if (!same(line, before![kind]) && same(here![kind], before![kind])) here![kind] = structuredClone(line);
}
