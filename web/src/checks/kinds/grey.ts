/** Lightness alone. */
import type { Check } from "../check";

export default {
  what: "grey",
  key: "g",
  label: "Grey",
  said: "Lightness only, without colour",
  shows: "grey",
} satisfies Check;
