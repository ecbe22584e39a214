/** What prints at full, or at nothing. */
import type { Check } from "../check";

export default {
  what: "limits",
  key: "6",
  label: "Limits",
  said: "What prints at full, or at nothing, per channel",
  shows: "limits",
} satisfies Check;
