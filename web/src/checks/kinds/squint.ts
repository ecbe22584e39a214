/** Through nearly closed eyes: where the eye goes. */
import EyeMarks from "../EyeMarks.vue";
import type { Check } from "../check";

export default {
  what: "squint",
  key: "8",
  label: "Squint",
  said: "Small and blurred: where the eye goes",
  shows: "squint",
  over: EyeMarks,
} satisfies Check;
