/** The line of a document because of which no picture could be made: what it is called, and how it is switched off. */
import type { SceneDocument, Schemas } from "../api/client";

type Line = { id?: string; kind?: string; name?: string; on?: boolean };
/** What lines are called, by their kind. */
type Labels = Pick<Schemas["Kind"], "kind" | "label">[];

export interface Blamed {
  name: string;
  /** Switch it off in a document. */
  off: (document: SceneDocument) => void;
}

function linesOf(document: SceneDocument): Record<string, Line> {
  const lists = [document.moves, document.repairs, document.loans, document.shapes, [document.sky]];
  const lines = (lists as (Line | null | undefined)[][]).flatMap((list) => list ?? []);
  return {
    ...document.ground,
    ...Object.fromEntries(lines.filter((l): l is Line => !!l?.id).map((l) => [l.id!, l])),
  };
}

/** `line`: its id, or the kind of a line of Ground. Null where it is not in the document, or off. */
export function blamed(document: SceneDocument, line: string, labels: Labels): Blamed | null {
  const held = linesOf(document)[line];
  if (!held || held.on === false) return null;
  const kind = held.kind ?? (document.sky?.id === line ? "new_sky" : line);
  const label = labels.find((k) => k.kind === kind)?.label ?? kind;
  return {
    name: held.name ? `${label}: ${held.name}` : label,
    off(of) {
      const now = linesOf(of)[line];
      if (now) now.on = false;
    },
  };
}
