/** Where the open latch, or the open line's, holds; at Ground where Crispness acts. */
import type { Check } from "../check";

export default {
  what: "mask",
  key: "4",
  label: "Mask",
  said: (station) =>
    station === "Ground" ? "Where Crispness acts; h for another look" : "The mask; h for another look",
} satisfies Check;
