/** Which document a comparison looks at. */
import type { SceneDocument } from "../api/client";
import type { Comparing } from "../stores/view";

/** What gives the picture its shape: kept when only light should be compared. */
const SHAPE = ["lens", "plumb", "trim"];

/** The document to show for a comparison; `line` is the id of the open move, or the kind of a Ground
 * line. The one given is not changed. Latches stay in it, so that they can be measured; they change
 * nothing by themselves. */
export function compared(document: SceneDocument, comparing: Comparing, line: string | null): SceneDocument {
  const doc = JSON.parse(JSON.stringify(document)) as SceneDocument;
  const ground = (doc.ground ?? {}) as unknown as Record<string, { on?: boolean }>;
  if (comparing === "start" || comparing === "untouched" || comparing === "cropped") doc.moves = [];
  if (comparing === "untouched") delete (doc as { ground?: unknown }).ground;
  if (comparing === "cropped")
    for (const kind of Object.keys(ground)) if (!SHAPE.includes(kind)) delete ground[kind];
  if (comparing === "line") {
    for (const m of doc.moves ?? []) if (m.id === line) m.on = false;
    if (line && ground[line]) ground[line].on = false;
  }
  return doc;
}
