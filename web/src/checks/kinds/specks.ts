/** Local contrast raised until spots show, also those that Light has made visible. */
import type { Check } from "../check";

export default {
  what: "specks",
  key: "k",
  label: "Specks",
  said: "Local contrast raised: soft round dips are specks",
  shows: "specks",
} satisfies Check;
