/** Join: a sweep as one picture, and the frames it is made of. */
import { sentence, type Values } from "../../model/wording";
import { useScene } from "../../stores/scene";
import type { Station } from "../station";
import JoinSide from "./JoinSide.vue";

function sweep() {
  const base = useScene().document?.base;
  return base?.kind === "sweep" ? base : null;
}

export default {
  name: "Join",
  side: JoinSide,
  says: () => (sweep() ? `${sweep()!.members.filter((m) => m.on).length} frames` : ""),
  band() {
    const base = sweep();
    if (!base) return "";
    const scene = useScene();
    const kind = scene.groundKinds.find((k) => k.kind === "projection")!;
    const laid = sentence(kind, scene.ground("projection").params as Values);
    return `Sweep of ${base.members.filter((m) => m.on).length} frames, ${laid}.`;
  },
} satisfies Station;
