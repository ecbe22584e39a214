/** Where one frame of a join gives way to another. */
import SeamsCheck from "../../components/SeamsCheck.vue";
import { useScene } from "../../stores/scene";
import type { Check } from "../check";

export default {
  what: "seams",
  key: "0",
  label: "Seams",
  said: "Which frame is shown where; point at one beside the picture",
  fits: () => useScene().document?.base?.kind === "sweep",
  over: SeamsCheck,
} satisfies Check;
