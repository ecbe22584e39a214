/** Join: several frames as one picture, and what it is made of. */
import { sentence, type Values } from "../../model/wording";
import { useScene } from "../../stores/scene";
import type { Station } from "../station";
import JoinSide from "./JoinSide.vue";

/** What of a document is joined; null where it is one frame. */
function joined() {
  const base = useScene().document?.base;
  return base && base.kind !== "frame" ? base : null;
}
const count = (base: NonNullable<ReturnType<typeof joined>>) => base.members.filter((m) => m.on).length;

export default {
  name: "Join",
  side: JoinSide,
  says: () => (joined() ? `${count(joined()!)} frames` : ""),
  band() {
    const base = joined();
    if (!base) return "";
    if (base.kind === "bracket")
      return `Bracket of ${count(base)} frames, clips ${(base.headroom ?? 0).toFixed(1)} stops further.`;
    const scene = useScene();
    const kind = scene.groundKinds.find((k) => k.kind === "projection")!;
    const laid = sentence(kind, scene.ground("projection").params as Values);
    return `Sweep of ${count(base)} frames, ${laid}.`;
  },
} satisfies Station;
