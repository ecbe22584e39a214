/** Where one frame of a join gives way to another, or is believed alone. */
import SeamsCheck from "../SeamsCheck.vue";
import { useScene } from "../../stores/scene";
import type { Check } from "../check";

const joined = () => useScene().document?.base?.kind ?? "frame";

export default {
  what: "seams",
  key: "0",
  label: "Seams",
  said: () =>
    joined() === "bracket"
      ? "Where something moved, and which exposure is used there"
      : "Which frame is used where; point at one beside the picture",
  fits: () => joined() !== "frame",
  over: SeamsCheck,
} satisfies Check;
