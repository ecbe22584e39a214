/** Join: several frames as one picture, and what it is made of. */
import { headroom } from "../../model/seams";
import { sentence, type Values } from "../../model/wording";
import { useScene } from "../../stores/scene";
import type { Station } from "../station";
import JoinSide from "./JoinSide.vue";
import JoinShelf from "./JoinShelf.vue";
import JoinVerbs from "./JoinVerbs.vue";
import JoinOver from "./JoinOver.vue";

/** What of a document is joined; null where it is one frame. */
function joined() {
  const base = useScene().document?.base;
  return base && base.kind !== "frame" ? base : null;
}
const count = (base: NonNullable<ReturnType<typeof joined>>) => base.members.filter((m) => m.on).length;

export default {
  name: "Join",
  side: JoinSide,
  above: JoinVerbs,
  below: JoinShelf,
  over: JoinOver,
  says() {
    const lent = useScene().document?.loans?.length ?? 0;
    if (joined()) return `${count(joined()!)} frames`;
    return lent ? `${lent} borrowed` : "";
  },
  band() {
    const base = joined();
    const lent = loans();
    return [base ? of(base) : "", ...lent].filter(Boolean).join(" ");
  },
} satisfies Station;

/** Loans that are on, each as a sentence. */
function loans(): string[] {
  const scene = useScene();
  return (scene.document?.loans ?? [])
    .filter((l) => l.on)
    .map((l) => {
      const name = scene.document!.sources.find((s) => s.id === l.source)?.path ?? "a frame";
      const latch = scene.nameOf(l.latch);
      return `Loan from ${name}${latch ? `, on ${latch}` : ""}.`;
    });
}
function of(base: NonNullable<ReturnType<typeof joined>>): string {
  if (base.kind === "bracket")
    return `Bracket of ${count(base)} frames, clips ${headroom(base.members).toFixed(1)} stops further.`;
  const scene = useScene();
  const kind = scene.groundKinds.find((k) => k.kind === "projection")!;
  return `Sweep of ${count(base)} frames, ${sentence(kind, scene.ground("projection").params as Values)}.`;
}
