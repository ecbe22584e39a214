/** Mirrored and upside down: the eye sees shapes, and not what they are. */
import type { Check } from "../check";

export default {
  what: "turn",
  key: "x",
  label: "Turn",
  said: "Upside down: does it still balance?",
  turned: "rotate(180deg)",
} satisfies Check;
