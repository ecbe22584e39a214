/** What prints at full, or at nothing. */
import type { Check } from "../check";

export default {
  what: "limits",
  key: "6",
  label: "Clipped",
  said: "Clipped highlights and shadows, per channel",
  shows: "limits",
} satisfies Check;
