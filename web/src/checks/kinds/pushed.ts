/** Colour pushed, to see casts. */
import type { Check } from "../check";

export default {
  what: "pushed",
  key: "5",
  label: "Colour ×4",
  said: "Colour four times as strong: casts show",
  push: 4,
} satisfies Check;
