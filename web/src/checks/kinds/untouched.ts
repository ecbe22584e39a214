/** The frame as it came. */
import type { Check } from "../check";

export default {
  what: "untouched",
  key: "3",
  label: "Original",
  said: "Original, as shot",
  document(doc) {
    doc.moves = [];
    doc.loans = [];
    doc.repairs = [];
    doc.sky = null;
    doc.shapes = [];
    delete (doc as { ground?: unknown }).ground;
  },
} satisfies Check;
