/** Light: the ledger of moves, and the latches they hold on to. */
import { sentence, type Values } from "../../model/wording";
import { useScene } from "../../stores/scene";
import type { Station } from "../station";
import LatchShelf from "./LatchShelf.vue";
import LightSide from "./LightSide.vue";
import LightVerbs from "./LightVerbs.vue";
import LightOver from "./LightOver.vue";

export default {
  name: "Light",
  side: LightSide,
  above: LightVerbs,
  below: LatchShelf,
  over: LightOver,
  says() {
    const n = useScene().moves.length;
    return n === 1 ? "1 move" : `${n} moves`;
  },
  band() {
    const scene = useScene();
    const kindOf = (kind: string) => scene.lightKinds.find((k) => k.kind === kind)!;
    return scene.moves
      .filter((m) => m.on)
      .map((m) => {
        const latch = scene.nameOf(m.latch);
        return sentence(kindOf(m.kind), m.params as Values) + (latch ? ` on ${latch}` : "");
      })
      .join(" · ");
  },
} satisfies Station;
