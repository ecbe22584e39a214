/** Mirrored: as somebody sees it who has not looked at it for an hour. */
import type { Check } from "../check";

export default {
  what: "mirror",
  key: "x",
  label: "Mirror",
  said: "Mirrored, as if seen for the first time",
  turned: "scaleX(-1)",
} satisfies Check;
