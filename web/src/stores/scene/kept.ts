/** What saving put beside the document, taken into the one on screen. */
import type { IngredientLine, SceneDocument } from "../../api/client";

/** What was put beside the document when it was saved: strokes on sheets, where none was painted since, and what
 * was found, where nothing else is looked for by now. */
export function takeKept(now: SceneDocument, sent: SceneDocument, saved: SceneDocument): void {
  const linesOf = (of: SceneDocument) => {
    const lines = of.latches.flatMap((l) => l.ingredients);
    return new Map(lines.map((i) => [i.id, i]));
  };
  const [before, after] = [linesOf(sent), linesOf(saved)];
  for (const [id, line] of linesOf(now)) {
    const kept = after.get(id);
    if (!kept) continue;
    if (line.revision === before.get(id)?.revision) {
      line.revision = kept.revision;
      line.found = structuredClone(kept.found);
    }
    const strokesOf = (of?: IngredientLine) => (of?.params as { strokes?: unknown[] } | undefined)?.strokes;
    const strokes = strokesOf(kept);
    const [mine, theirs] = [strokesOf(line)?.length, strokesOf(before.get(id))?.length];
    if (strokes && mine === theirs && strokes.length !== mine)
      (line.params as { strokes?: unknown[] }).strokes = structuredClone(strokes);
  }
}
