/** Places grown anew from elsewhere: proposals, what they may be grown from, and a look at the picture without a thing. */
import { ref, shallowRef, type Ref } from "vue";

import { client, need, type Schemas } from "../../api/client";
import type { AnyRepair, Area, RegrowRepair } from "../../model/repairs";
import type { Errand } from "../scene/errands";
import type { Mending } from "./asked";

export type Proposal = Schemas["Regrown"];
/** An area, or a latch by its id; what it may be grown from, and what never: the same. */
type Place = Partial<Pick<Schemas["Outlined"], "area" | "latch" | "corners" | Limit | `${Limit}_latch`>>;
/** What limits where a place is grown from. */
export type Limit = "source" | "spared";
/** Proposals for a place at a time. */
const AT_ONCE = 3;

export function growWork({ scene, asked, add, undo, params }: Mending, repairs: Ref<AnyRepair[]>) {
  const proposals = shallowRef<{ id: string; seeds: number; all: Proposal[] } | null>(null);
  /** A thing hidden for a look: its repair stands in the document, and nothing is saved. */
  const hidden = ref("");

  async function propose(at: Errand, place: Place, from: number, many = AT_ONCE): Promise<Proposal[] | null> {
    const seeds = Array.from({ length: many }, (_, n) => from + n);
    const other = proposals.value?.id;
    return asked(at, "regrowing", (work) => {
      const without = at.now();
      without.repairs = without.repairs?.filter((r) => r.id !== other);
      return need(
        client.POST("/api/scenes/{scene_id}/mend/regrow", {
          params: params(at),
          body: {
            document: without as never, latch: "", corners: false, source_latch: "", spared_latch: "", ...place, seeds, work,
          },
        }),
      );
    }); // prettier-ignore
  }
  async function grown(place: Place): Promise<void> {
    proposals.value = null;
    await scene.errand("regrow", async (at) => {
      const all = await propose(at, place, 0);
      if (!all?.length) return;
      const first = all[0]!.repair;
      add(at, first as AnyRepair, "Regrow");
      if (at.open()) proposals.value = { id: first.id!, seeds: AT_ONCE, all };
    });
  }
  const regrow = (area: Area) => grown({ area });
  const fillCorners = () => grown({ corners: true });
  const regrowLatch = (latch: string) => grown({ latch });
  /** A proposal in a line's place; what it is called and how it is fitted stays. */
  function put(line: RegrowRepair, { repair }: Proposal): void {
    const { revision, map, seed, source, spared } = repair;
    Object.assign(line, { revision, map, seed, source, spared });
  }
  /** Another proposal in place of the one that stands. */
  async function choose(one: Proposal): Promise<void> {
    const held = proposals.value;
    const line = repairs.value.find((r) => r.id === held?.id);
    if (!held || line?.kind !== "regrow") return;
    put(line, one);
    await scene.commit("Choose other proposal");
  }
  /** More proposals for the same place. */
  async function again(repair: AnyRepair): Promise<void> {
    if (repair.kind !== "regrow") return;
    const same = proposals.value?.id === repair.id ? proposals.value : null;
    const from = same ? same.seeds : (repair.seed ?? 0) + 1;
    proposals.value = { id: repair.id, seeds: from, all: same?.all ?? [] };
    const { area, source, spared } = repair;
    await scene.errand(`proposals ${repair.id}`, async (at) => {
      const all = await propose(at, { area, source, spared }, from);
      if (all && at.here()) proposals.value = { id: repair.id, seeds: from + AT_ONCE, all };
    });
  }
  /** Say what a place may be grown from, or what never: an area, a latch by its id, or as it comes. It is grown anew. */
  async function limit(repair: AnyRepair, what: Limit, to: Area | string | null): Promise<void> {
    if (repair.kind !== "regrow") return;
    const said = typeof to === "string" ? { [what]: null, [`${what}_latch`]: to } : { [what]: to };
    const { area, source, spared } = repair;
    const words = what === "source" ? "Grow only from there" : "Never grow from there";
    const freed = what === "source" ? "Grow from everywhere" : "Allow growing from there";
    await scene.errand(`limit ${repair.id}`, async (at) => {
      const all = await propose(at, { area, source, spared, ...said }, 0);
      if (!all?.length || !at.wanted()) return;
      const stands = at.now().repairs?.some((r) => r.id === repair.id);
      if (!stands) return; // it was removed meanwhile
      at.done(
        (document) => {
          const line = (document.repairs as AnyRepair[]).find((r) => r.id === repair.id);
          if (line?.kind === "regrow") put(line, all[0]!);
        },
        to === null ? freed : words,
      );
      if (at.open()) proposals.value = { id: repair.id, seeds: AT_ONCE, all };
    });
  }
  /** The picture as it would be without a thing: nothing is saved until it is kept. */
  async function hide(area: Area): Promise<void> {
    putBack();
    await scene.errand("hide", async (at) => {
      const all = await propose(at, { area }, 0, 1);
      if (!all?.length || !at.here()) return;
      (scene.document!.repairs ??= []).push(all[0]!.repair as never);
      hidden.value = all[0]!.repair.id!;
      scene.tryOut();
    });
  }
  function keepHidden(): void {
    const id = hidden.value;
    hidden.value = "";
    scene.openMove = id;
    void scene.commit("Regrow");
  }
  /** As it was. Something else may have been committed meanwhile, and what hides it with it: then its going is, too. */
  function putBack(): void {
    scene.endErrands("hide");
    const id = hidden.value;
    if (!id) return;
    hidden.value = "";
    undo(id, "Restore hidden");
  }
  return {
    proposals,
    hidden,
    regrow,
    fillCorners,
    regrowLatch,
    choose,
    again,
    limit,
    hide,
    keepHidden,
    putBack,
  };
}
