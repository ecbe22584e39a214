/** As it was before the work of this station. */
import type { SceneDocument } from "../../api/client";
import type { Check } from "../check";

/** What gives the picture its shape: kept, so that only light is compared. */
const SHAPE = ["lens", "plumb", "trim", "projection"];

const BEFORE: Record<string, string> = { Ground: "Before Ground", Mend: "Before Mend" };
const SAID: Record<string, string> = {
  Ground: "Before Ground, with today's crop",
  Mend: "Before Mend: without any repair",
};

export default {
  what: "start",
  key: "2",
  label: (station) => (station in BEFORE ? BEFORE[station]! : "Before Light"),
  said: (station) => SAID[station] ?? "Before Light: Ground only",
  document(doc, { station }) {
    if (station === "Mend") {
      doc.repairs = [];
      doc.sky = null;
      doc.shapes = [];
      delete (doc.ground as Partial<SceneDocument["ground"]>).refocus;
      return;
    }
    doc.moves = [];
    const ground: Partial<Record<string, unknown>> = doc.ground;
    if (station === "Ground")
      for (const kind of Object.keys(ground)) if (!SHAPE.includes(kind)) delete ground[kind];
  },
} satisfies Check;
