/** What is taken out of the scene: repairs are found by the server, and stand in the document from then on. */
import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import { client, need, type Schemas } from "../api/client";
import type { Spot as Point } from "../model/plane";
import type { AnyRepair, Area, RegrowRepair } from "../model/repairs";
import { dropUnused } from "../model/sources";
import { within } from "../model/wording";
import { askedWork } from "./mend/asked";
import { strokeWork } from "./mend/strokes";
import { useScene } from "./scene";
import type { Errand } from "./scene/errands";

export type Proposal = Schemas["Grown"];
/** An area, or a latch by its id; what it may be grown from, and what never: the same. */
type Place = Partial<Pick<Schemas["Outlined"], "area" | "latch" | "corners" | Limit | `${Limit}_latch`>>;
/** What limits where a place is grown from. */
export type Limit = "source" | "spared";
/** Proposals for a place at a time. */
const AT_ONCE = 3;

export const useMend = defineStore("mend", () => {
  const scene = useScene();
  const repairs = computed(() => (scene.document?.repairs ?? []) as AnyRepair[]);
  /** Latches that hold anything: what should go, or what it may be grown from. */
  const latches = computed(() => scene.latches.filter((l) => l.ingredients.length));
  const open = computed(() => repairs.value.find((r) => r.id === scene.openMove) ?? null);
  /** What of the brush was set by hand; the rest is as it is declared. */
  const set = ref<Record<string, number>>({});
  const declared = (name: string) => scene.vocabulary?.brush.find((f) => f.name === name);
  /** The brush: its radius in long edges, and the share of it over which it ends. */
  const brush = computed(() => {
    const of = (name: string) => set.value[name] ?? (declared(name)?.default as number) ?? 0;
    return { size: of("size"), soft: of("soft") };
  });
  function setBrush(name: "size" | "soft", value: number): void {
    const field = declared(name);
    if (field) set.value = { ...set.value, [name]: within(field, value) };
  }
  /** A line that is pointed at, beside the picture or on it. */
  const pointed = ref("");
  const { doing, done, busy, asked } = askedWork(scene);
  const proposals = shallowRef<{ id: string; seeds: number; all: Proposal[] } | null>(null);
  /** A thing hidden for a look: its repair stands in the document, and nothing is saved. */
  const hidden = ref("");
  /** Specks known of this camera from other scenes, as a line that can be taken in; null where there are none. */
  const known = shallowRef<AnyRepair | null>(null);
  /** Specks on the frame of a scene that nobody has mended yet, once they were looked for there. */
  const counted = ref<{ id: string; count: number } | null>(null);
  const left = computed(() => (counted.value?.id === scene.opened?.id ? (counted.value?.count ?? 0) : 0));

  // what is tried, or offered, is of the scene it was tried in
  watch(
    () => scene.opened?.id,
    () => {
      hidden.value = "";
      proposals.value = known.value = null;
    },
  );

  const params = (at: Errand) => ({ path: { scene_id: at.scene } });
  /** A repair that was found, into the scene it was found for. */
  function add(at: Errand, repair: AnyRepair, words: string): void {
    at.done((document) => void (document.repairs ??= []).push(repair as never), words);
    if (at.open()) scene.openMove = repair.id;
  }

  async function findSpecks(): Promise<void> {
    if (busy("looking for specks")) return;
    await scene.errand("specks", async (at) => {
      const found = await asked(at, "looking for specks", async (work) => {
        const body = { document: at.now() as never, work };
        const got = await client.POST("/api/scenes/{scene_id}/mend/specks", { params: params(at), body });
        if (got.response.ok && !got.data) throw new Error("No specks were found; point at one that you see.");
        return need(Promise.resolve(got));
      });
      if (!found) return;
      if (at.open()) counted.value = null;
      const count = found.spots.length;
      add(at, found as AnyRepair, `Mend ${count} ${count === 1 ? "speck" : "specks"}`);
    });
  }
  /** A speck that was pointed at: into the line of specks that is there, or a new one; off and on where it is in one. */
  async function speck(place: Point, radius: number): Promise<void> {
    for (const line of repairs.value) {
      if (line.kind !== "specks") continue;
      const held = line.spots.find((s) => Math.hypot(s.x - place.x, s.y - place.y) < s.radius);
      if (!held) continue;
      held.on = !held.on;
      void scene.commit(held.on ? "Mend spot again" : "Leave spot");
      return;
    }
    await scene.errand("speck", async (at) => {
      const spot = await asked(at, "mending a speck", () =>
        need(
          client.POST("/api/scenes/{scene_id}/mend/spot", {
            params: params(at),
            body: { document: at.now() as never, ...place, radius },
          }),
        ),
      );
      if (!spot) return;
      at.done((document) => {
        const line = (document.repairs as AnyRepair[] | undefined)?.findLast((r) => r.kind === "specks");
        if (line?.kind === "specks") line.spots.push(spot);
        else {
          const id = crypto.randomUUID();
          const made = { kind: "specks", id, on: true, name: "", revision: 1, spots: [spot], params: { reach: 1 } }; // prettier-ignore
          (document.repairs ??= []).push(made as never);
          if (at.open()) scene.openMove = id;
        }
      }, "Mend spot");
    });
  }
  const { draft, sketch, dropSketch, stroke } = strokeWork(scene, repairs, asked, undo);

  /** A wire through places; `again`: in place of one that was traced through some of them. Its id once it stands; "" where
   * places were added since, or it was left. */
  function wire(points: Point[], again = ""): Promise<string> {
    return scene.errand("wire", async (at) => {
      const document = at.now();
      document.repairs = document.repairs?.filter((r) => r.id !== again);
      const made = await asked(at, "following the wire", () =>
        need(
          client.POST("/api/scenes/{scene_id}/mend/wire", {
            params: params(at),
            body: { document: document as never, points },
          }),
        ),
      );
      if (!made || !at.wanted()) return "";
      at.done(
        (now) => (now.repairs = [...(now.repairs ?? []).filter((r) => r.id !== again), made] as never),
        again ? "Extend wire" : "Take out wire",
      );
      if (at.open()) scene.openMove = made.id!;
      return made.id!;
    });
  }
  /** What is still being followed is not wanted any more. */
  const leaveWire = () => scene.endErrands("wire");
  async function propose(at: Errand, place: Place, from: number, many = AT_ONCE): Promise<Proposal[] | null> {
    const seeds = Array.from({ length: many }, (_, n) => from + n);
    const without = at.now();
    without.repairs = without.repairs?.filter((r) => r.id !== proposals.value?.id);
    return asked(at, "regrowing", (work) =>
      need(
        client.POST("/api/scenes/{scene_id}/mend/regrow", {
          params: params(at),
          body: {
            document: without as never, latch: "", corners: false, source_latch: "", spared_latch: "", ...place, seeds, work,
          },
        }),
      ),
    ); // prettier-ignore
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
  /** Something tried is taken out of the document again. */
  function undo(id: string, words = "As it was"): void {
    if (scene.committed().some((r) => r.id === id)) {
      scene.document!.repairs = repairs.value.filter((r) => r.id !== id) as never;
      void scene.commit(words);
    } else scene.restore();
  }
  /** The outing's other frames, those first whose skies would fit the best; null where that is not wanted any more. */
  const skies = () =>
    scene.errand("skies", async (at) => {
      const offered = await asked(at, "looking at the outing's skies", (work) =>
        need(
          client.POST("/api/scenes/{scene_id}/mend/skies", {
            params: params(at),
            body: { document: at.now() as never, work },
          }),
        ),
      );
      return at.here() ? offered : null;
    });
  /** The sky of another frame, with the latch that lets it in. */
  const bringSky = (frame: { id: string; name: string }): Promise<boolean> =>
    scene.errand("sky", async (at) => {
      const got = await asked(at, "finding the sky, and placing the other", (work) =>
        need(
          client.POST("/api/scenes/{scene_id}/mend/sky", {
            params: params(at),
            body: { document: at.now() as never, frame: frame.id, work },
          }),
        ),
      );
      if (!got || !at.wanted()) return false;
      at.done((document) => {
        if (!document.sources.some((s) => s.id === got.source.id)) document.sources.push(got.source);
        if (!document.latches.some((l) => l.id === got.latch.id)) document.latches.push(got.latch as never);
        const before = document.sky?.source;
        document.sky = got.sky;
        if (before) dropUnused(document, before);
      }, "New sky");
      return true;
    });
  function remove(repair: AnyRepair, words: string): void {
    if (scene.openMove === repair.id) scene.openMove = null;
    scene.document!.repairs = repairs.value.filter((r) => r.id !== repair.id) as never;
    void scene.commit(`Remove ${words}`);
  }
  function shift(repair: AnyRepair, by: 1 | -1): void {
    const all = scene.document!.repairs!;
    const n = all.findIndex((r) => r.id === repair.id);
    all.splice(n + by, 0, ...all.splice(n, 1));
    void scene.commit(`Move repair ${by < 0 ? "up" : "down"}`);
  }
  async function askKnown(): Promise<void> {
    known.value = null;
    if (!scene.opened || (scene.document?.base?.kind ?? "frame") !== "frame") return;
    await scene.errand("known specks", async (at) => {
      const body = { document: at.now() as never };
      const found = await client
        .POST("/api/scenes/{scene_id}/mend/known", { params: params(at), body })
        .catch(() => null);
      if (at.here()) known.value = (found?.data as AnyRepair | undefined) ?? null;
    });
  }
  async function takeKnown(): Promise<void> {
    const line = known.value;
    known.value = null;
    if (line) await scene.errand("take known", async (at) => add(at, line, "Mend known specks"));
  }
  /** How many specks are left on the frame, asked in passing. */
  async function count(): Promise<void> {
    if (!scene.opened) return;
    counted.value = null;
    await scene.errand("count specks", async (at) => {
      const body = { document: at.now() as never };
      const found = await client
        .POST("/api/scenes/{scene_id}/mend/specks", { params: params(at), body })
        .catch(() => null);
      if (at.here() && found) counted.value = { id: at.scene, count: found.data?.spots.length ?? 0 };
    });
    await askKnown();
  }
  return {
    repairs, latches, open, brush, setBrush, pointed, doing, done, skies, proposals, hidden, left, findSpecks, speck, draft, sketch, dropSketch, stroke, wire, leaveWire, regrow, regrowLatch, fillCorners, limit,
    choose, again, hide, keepHidden, putBack, bringSky, known, askKnown, takeKnown, remove, shift, count,
  }; // prettier-ignore
});
