/** Rims along strong edges. */
import EyeMarks from "../EyeMarks.vue";
import type { Check } from "../check";

export default {
  what: "halos",
  key: "9",
  label: "Halos",
  said: "Halos along strong edges",
  over: EyeMarks,
} satisfies Check;
