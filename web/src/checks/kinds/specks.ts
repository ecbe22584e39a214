/** Local contrast raised until spots show, also those that Light has made visible. */
import type { Check } from "../check";

export default {
  what: "specks",
  key: "k",
  label: "Specks",
  said: "Contrast raised: dust shows as soft dark spots",
  shows: "specks",
} satisfies Check;
