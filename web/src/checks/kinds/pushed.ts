/** Colour pushed, to see casts. */
import type { Check } from "../check";

export default {
  what: "pushed",
  key: "5",
  label: "Pushed",
  said: "Colour pushed four times, to see casts",
  push: 4,
} satisfies Check;
