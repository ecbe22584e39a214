/** The four edges, magnified. */
import BordersCheck from "../BordersCheck.vue";
import type { Check } from "../check";

export default {
  what: "borders",
  key: "7",
  label: "Borders",
  said: "The four edges, magnified",
  over: BordersCheck,
} satisfies Check;
