/** Light: the ledger of moves, and the latches they hold on to. */
import { useScene } from "../../stores/scene";
import type { Station } from "../station";
import LightSide from "./LightSide.vue";

export default {
  name: "Light",
  side: LightSide,
  says() {
    const n = useScene().moves.length;
    return n === 1 ? "1 move" : `${n} moves`;
  },
} satisfies Station;
