/** Mend: what distracts is taken out, beneath everything else. */
import { readsAs, type AnyRepair } from "../../model/repairs";
import { shapeReads, type AnyShape } from "../../model/shapes";
import { useMend } from "../../stores/mend";
import { useScene } from "../../stores/scene";
import type { Station } from "../station";
import MendShelf from "./MendShelf.vue";
import MendSide from "./MendSide.vue";
import MendVerbs from "./MendVerbs.vue";
import MendOver from "./MendOver.vue";

/** Repairs that are named one by one in the band; more are counted. */
const NAMED = 4;

function said(repair: AnyRepair): string {
  const kind = useScene().vocabulary?.moves.find((k) => k.kind === repair.kind);
  return repair.name ? `${readsAs(repair, kind)} (${repair.name})` : readsAs(repair, kind);
}

export default {
  name: "Mend",
  side: MendSide,
  above: MendVerbs,
  below: MendShelf,
  over: MendOver,
  asks() {
    const scene = useScene();
    // while a repair is drawn or carried, what is learned of the whole picture stays what it was
    return { preview_edit: useMend().draft?.id ?? (scene.dragging ? (scene.openMove ?? "") : "") };
  },
  says() {
    const left = useMend().left;
    if (left) return `${left} ${left === 1 ? "speck" : "specks"}`;
    const count = useScene().document?.repairs?.length ?? 0;
    return count ? `${count} ${count === 1 ? "repair" : "repairs"}` : "";
  },
  band() {
    const lines = ((useScene().document?.repairs ?? []) as AnyRepair[]).filter((r) => r.on);
    const first = lines.slice(0, NAMED).map(said);
    if (lines.length > NAMED) first.push(`${lines.length - NAMED} more`);
    const sky = useScene().document?.sky;
    if (sky?.on) first.push("New sky");
    const shapes = ((useScene().document?.shapes ?? []) as AnyShape[]).filter((s) => s.on);
    first.push(...shapes.map((s) => s.name || shapeReads(s)));
    return first.length ? `${first.join(" · ")}.` : "";
  },
} satisfies Station;
