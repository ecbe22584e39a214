/** The frames a document names. */
import type { SceneDocument } from "../api/client";

/** Drop a source that nothing is made of, or brought from, any more. */
export function dropUnused(document: SceneDocument, source: string): void {
  const base = document.base;
  const made =
    !base || base.kind === "frame"
      ? document.sources[0]?.id === source
      : base.members.some(
          (m) =>
            m.source === source || ("bracket" in m && m.bracket?.members.some((e) => e.source === source)),
        );
  const brought = document.loans?.some((l) => l.source === source) || document.sky?.source === source;
  if (!made && !brought) document.sources = document.sources.filter((s) => s.id !== source);
}
