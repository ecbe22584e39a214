/** As it was before the work of this station. */
import type { Check } from "../check";

/** What gives the picture its shape: kept, so that only light is compared. */
const SHAPE = ["lens", "plumb", "trim", "projection"];

export default {
  what: "start",
  key: "2",
  label: "Start",
  said: (station) =>
    station === "Ground" ? "Start, with today's crop" : "Start: Ground only, no Light moves",
  document(doc, { station }) {
    doc.moves = [];
    const ground = (doc.ground ?? {}) as unknown as Record<string, unknown>;
    if (station === "Ground")
      for (const kind of Object.keys(ground)) if (!SHAPE.includes(kind)) delete ground[kind];
  },
} satisfies Check;
