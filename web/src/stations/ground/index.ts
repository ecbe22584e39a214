/** Ground: from the sensor to a good start. */
import GroundPanel from "../../components/GroundPanel.vue";
import { useScene } from "../../stores/scene";
import type { Station } from "../station";

const LONG = 18;

export default {
  name: "Ground",
  side: GroundPanel,
  says() {
    const things = useScene().state?.open ?? [];
    const first = things[0] ?? "";
    return things.length > 1 || first.length > LONG ? `${things.length} open` : first;
  },
} satisfies Station;
