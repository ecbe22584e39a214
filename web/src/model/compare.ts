/** Which document a comparison looks at. */
import type { SceneDocument } from "../api/client";
import type { Comparing } from "../stores/view";

/** The document to show for a comparison; `line` is the id of the open move. The one given is not
 * changed. Latches stay in it, so that they can be measured; they change nothing by themselves. */
export function compared(document: SceneDocument, comparing: Comparing, line: string | null): SceneDocument {
  const doc = JSON.parse(JSON.stringify(document)) as SceneDocument;
  if (comparing === "start" || comparing === "untouched") doc.moves = [];
  if (comparing === "untouched") delete (doc as { ground?: unknown }).ground;
  if (comparing === "line") for (const m of doc.moves ?? []) if (m.id === line) m.on = false;
  return doc;
}
