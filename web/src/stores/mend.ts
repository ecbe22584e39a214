/** What is taken out of the scene: repairs are found by the server, and stand in the document from then on. */
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import { ask, client, need, type Schemas } from "../api/client";
import type { Spot as Point } from "../model/plane";
import type { AnyRepair, Area, RegrowRepair } from "../model/repairs";
import { dropUnused } from "../model/sources";
import { within } from "../model/wording";
import { useScene } from "./scene";

export type Proposal = Schemas["Grown"];
type Stroked = "heal" | "clone";
type Take = Schemas["Take"];
const pointsOf = (area: Area) => (area.strokes ?? []).reduce((n, s) => n + s.points.length, 0) / 3;
/** An area, or a latch by its id; what it may be grown from, and what never: the same. */
type Place = Partial<Pick<Schemas["Outlined"], "area" | "latch" | Limit | `${Limit}_latch`>>;
/** What limits where a place is grown from. */
export type Limit = "source" | "spared";
/** Milliseconds after which it is asked again how far work is. */
const FOLLOWED = 500;
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
  /** What is being worked out, in words. */
  const doing = ref<string[]>([]);
  const proposals = shallowRef<{ id: string; seeds: number; all: Proposal[] } | null>(null);
  /** A thing hidden for a look: its repair stands in the document, and nothing is saved. */
  const hidden = ref("");
  /** Specks on the frame of a scene that nobody has mended yet, once they were looked for there. */
  const counted = ref<{ id: string; count: number } | null>(null);
  const left = computed(() => (counted.value?.id === scene.opened?.id ? (counted.value?.count ?? 0) : 0));

  /** How much of what is worked out last is done, 0–1; null where nobody knows. */
  const done = ref<number | null>(null);
  async function follow(name: string, words: string): Promise<void> {
    const got = await client.GET("/api/work/{name}", { params: { path: { name } } }).catch(() => null);
    if (doing.value.at(-1) === words) done.value = got?.data ?? done.value;
  }

  const params = () => ({ path: { scene_id: scene.opened!.id } });
  /** Ask for something, say what it is meanwhile; null where it was refused, which is told. */
  async function asked<T>(words: string, ask: (work: string) => Promise<T>): Promise<T | null> {
    const name = crypto.randomUUID();
    doing.value = [...doing.value, words];
    const following = window.setInterval(() => void follow(name, words), FOLLOWED);
    try {
      const got = await ask(name);
      scene.notices.settle("mend");
      return got;
    } catch (error) {
      scene.notices.tell("mend", error as Error);
      return null;
    } finally {
      window.clearInterval(following);
      done.value = null;
      const rest = [...doing.value];
      rest.splice(rest.indexOf(words), 1);
      doing.value = rest;
    }
  }
  function add(repair: AnyRepair, words: string): Promise<void> {
    (scene.document!.repairs ??= []).push(repair as never);
    scene.openMove = repair.id;
    return scene.commit(words);
  }

  async function findSpecks(): Promise<void> {
    const id = scene.opened!.id;
    const found = await asked("looking for specks", async (work) => {
      const path = `/api/scenes/${id}/mend/specks`;
      const body = { document: scene.current(), work };
      const got = await ask<Schemas["SpecksRepair"] | null>(path, body);
      if (!got) throw new Error("No specks were found; point at one that you see.");
      return got;
    });
    if (!found || scene.opened?.id !== id) return;
    counted.value = null;
    const count = found.spots.length;
    await add(found as AnyRepair, `${count} ${count === 1 ? "speck" : "specks"} mended`);
  }
  /** A speck that was pointed at: into the line of specks that is there, or a new one; off and on where it is in one. */
  async function speck(at: Point, radius: number): Promise<void> {
    for (const line of repairs.value) {
      if (line.kind !== "specks") continue;
      const held = line.spots.find((s) => Math.hypot(s.x - at.x, s.y - at.y) < s.radius);
      if (!held) continue;
      held.on = !held.on;
      await scene.commit(held.on ? "A speck mended again" : "A speck left as it was");
      return;
    }
    const spot = await asked("mending a speck", () =>
      need(
        client.POST("/api/scenes/{scene_id}/mend/spot", {
          params: params(),
          body: { document: scene.current(), ...at, radius },
        }),
      ),
    );
    if (!spot) return;
    const line = repairs.value.findLast((r) => r.kind === "specks");
    if (line?.kind === "specks") {
      line.spots.push(spot);
      await scene.commit("A speck mended");
    } else {
      const made = {
        kind: "specks",
        id: crypto.randomUUID(),
        on: true,
        name: "",
        revision: 1,
        spots: [spot],
      };
      await add({ ...made, params: { reach: 1 } } as AnyRepair, "A speck mended");
    }
  }
  /** A stroke under way: its repair as far as it is drawn, in the document and not saved; `points`: of how much of it. */
  const draft = shallowRef<{ id: string; points: number; take: Take; found: number } | null>(null);
  let sketching: Promise<void> | null = null;
  let finishing = Promise.resolve();
  /** Rises when what is being sketched is not wanted any more. */
  let dropped = 0;
  let ending = 0;
  function strokeAsked(kind: Stroked, area: Area): Promise<AnyRepair> {
    const document = scene.current() as { repairs?: { id: string }[] };
    const held = draft.value;
    document.repairs = document.repairs?.filter((r) => r.id !== held?.id);
    // where it is mended from was found for a part of it: it is looked for again once it is half as long again
    const near = held && pointsOf(area) < 1.5 * held.found ? held.take : null;
    return need(
      client.POST("/api/scenes/{scene_id}/mend/stroke", {
        params: params(),
        body: { document, kind, area, near },
      }),
    ) as Promise<AnyRepair>;
  }
  /** In place of what was sketched of it before, or as the last line. */
  function putDraft(made: AnyRepair, area: Area): void {
    if (made.kind !== "heal" && made.kind !== "clone") return;
    const before = draft.value;
    const points = pointsOf(area);
    const same = before && before.take.dx === made.take.dx && before.take.dy === made.take.dy;
    made.id = before?.id ?? made.id;
    const others = repairs.value.filter((r) => r.id !== made.id);
    scene.document!.repairs = [...others, made] as never;
    draft.value = { id: made.id, points, take: made.take, found: same ? before.found : points };
    scene.openMove = made.id;
  }
  /** A stroke that is still being drawn, as far as it goes; one at a time, and none while another is being finished. */
  function sketch(kind: Stroked, area: Area): void {
    if (sketching || ending) return;
    const of = dropped;
    const id = scene.opened?.id;
    sketching = strokeAsked(kind, area)
      .then((made) => {
        if (of !== dropped || scene.opened?.id !== id) return;
        putDraft(made, area);
        scene.tryOut();
      })
      // what cannot be mended is said when it is drawn
      .catch(() => undefined)
      .finally(() => (sketching = null));
  }
  function drop(): void {
    dropped++;
    if (!draft.value) return;
    const { id } = draft.value;
    draft.value = null;
    undo(id);
  }
  /** It is not drawn any more, and not kept; one that was drawn to its end is. */
  function dropSketch(): void {
    if (!ending) drop();
  }
  function stroke(kind: Stroked, area: Area): Promise<void> {
    ending++;
    finishing = finishing.then(() => finished(kind, area)).finally(() => ending--);
    return finishing;
  }
  async function finished(kind: Stroked, area: Area): Promise<void> {
    const id = scene.opened?.id;
    await sketching;
    const made = await asked(kind === "heal" ? "healing" : "cloning", () => strokeAsked(kind, area));
    if (scene.opened?.id !== id) {
      draft.value = null;
      return;
    }
    if (!made) return drop();
    putDraft(made, area);
    draft.value = null;
    await scene.commit(kind === "heal" ? "Healed" : "Cloned");
  }
  /** A wire through places; `again`: in place of one that was traced through some of them. */
  async function wire(points: Point[], again = ""): Promise<string> {
    const document = scene.current() as { repairs: { id: string }[] };
    document.repairs = document.repairs.filter((r) => r.id !== again);
    const made = await asked("following the wire", () =>
      need(client.POST("/api/scenes/{scene_id}/mend/wire", { params: params(), body: { document, points } })),
    );
    if (!made) return again;
    if (again) scene.document!.repairs = repairs.value.filter((r) => r.id !== again) as never;
    await add(made as AnyRepair, again ? "The wire goes on" : "A wire taken out");
    return made.id;
  }
  async function propose(place: Place, from: number, many = AT_ONCE): Promise<Proposal[] | null> {
    const seeds = Array.from({ length: many }, (_, n) => from + n);
    const without = scene.current() as { repairs: { id: string }[] };
    without.repairs = without.repairs.filter((r) => r.id !== proposals.value?.id);
    return asked("growing it anew", (work) =>
      need(
        client.POST("/api/scenes/{scene_id}/mend/regrow", {
          params: params(),
          body: { document: without, latch: "", source_latch: "", spared_latch: "", ...place, seeds, work },
        }),
      ),
    );
  }
  async function grown(place: Place): Promise<void> {
    proposals.value = null;
    const all = await propose(place, 0);
    if (!all?.length) return;
    const first = all[0]!.repair;
    await add(first as AnyRepair, "Regrown");
    proposals.value = { id: first.id, seeds: AT_ONCE, all };
  }
  const regrow = (area: Area) => grown({ area });
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
    await scene.commit("Regrown another way");
  }
  /** More proposals for the same place. */
  async function again(repair: AnyRepair): Promise<void> {
    if (repair.kind !== "regrow") return;
    const same = proposals.value?.id === repair.id ? proposals.value : null;
    const from = same ? same.seeds : (repair.seed ?? 0) + 1;
    proposals.value = { id: repair.id, seeds: from, all: same?.all ?? [] };
    const { area, source, spared } = repair;
    const all = await propose({ area, source, spared }, from);
    if (all) proposals.value = { id: repair.id, seeds: from + AT_ONCE, all };
  }
  /** Say what a place may be grown from, or what never: an area, a latch by its id, or as it comes. It is grown anew. */
  async function limit(repair: AnyRepair, what: Limit, to: Area | string | null): Promise<void> {
    if (repair.kind !== "regrow") return;
    const said = typeof to === "string" ? { [what]: null, [`${what}_latch`]: to } : { [what]: to };
    const { area, source, spared } = repair;
    const all = await propose({ area, source, spared, ...said }, 0);
    const line = repairs.value.find((r) => r.id === repair.id);
    if (!all?.length || line?.kind !== "regrow") return;
    put(line, all[0]!);
    proposals.value = { id: line.id, seeds: AT_ONCE, all };
    const words = what === "source" ? "Grown from there only" : "Never grown from there";
    const freed = what === "source" ? "Grown from everywhere around" : "Grown from there, too";
    await scene.commit(to === null ? freed : words);
  }
  /** The picture as it would be without a thing: nothing is saved until it is kept. */
  async function hide(area: Area): Promise<void> {
    putBack();
    const all = await propose({ area }, 0, 1);
    if (!all?.length) return;
    (scene.document!.repairs ??= []).push(all[0]!.repair as never);
    hidden.value = all[0]!.repair.id;
    scene.tryOut();
  }
  function keepHidden(): void {
    const id = hidden.value;
    hidden.value = "";
    scene.openMove = id;
    void scene.commit("Regrown");
  }
  /** As it was. Something else may have been committed meanwhile, and what hides it with it: then its going is, too. */
  function putBack(): void {
    const id = hidden.value;
    if (!id) return;
    hidden.value = "";
    undo(id, "What was hidden put back");
  }
  /** Something tried is taken out of the document again. */
  function undo(id: string, words = "As it was"): void {
    if (scene.committed().some((r) => r.id === id)) {
      scene.document!.repairs = repairs.value.filter((r) => r.id !== id) as never;
      void scene.commit(words);
    } else scene.restore();
  }
  /** The outing's other frames, those first whose skies would fit the best. */
  const skies = () =>
    asked("looking at the outing's skies", (work) =>
      need(
        client.POST("/api/scenes/{scene_id}/mend/skies", {
          params: params(),
          body: { document: scene.current(), work },
        }),
      ),
    );
  /** The sky of another frame, with the latch that lets it in. */
  async function bringSky(frame: { id: string; name: string }): Promise<boolean> {
    const got = await asked("finding the sky, and placing the other", (work) =>
      need(
        client.POST("/api/scenes/{scene_id}/mend/sky", {
          params: params(),
          body: { document: scene.current(), frame: frame.id, work },
        }),
      ),
    );
    if (!got) return false;
    const document = scene.document!;
    if (!document.sources.some((s) => s.id === got.source.id)) document.sources.push(got.source);
    if (!scene.latches.some((l) => l.id === got.latch.id)) document.latches.push(got.latch as never);
    const before = document.sky?.source;
    document.sky = got.sky;
    if (before) dropUnused(document, before);
    await scene.commit("New sky");
    return true;
  }
  function remove(repair: AnyRepair, words: string): void {
    if (scene.openMove === repair.id) scene.openMove = null;
    scene.document!.repairs = repairs.value.filter((r) => r.id !== repair.id) as never;
    void scene.commit(`${words} removed`);
  }
  function shift(repair: AnyRepair, by: 1 | -1): void {
    const all = scene.document!.repairs!;
    const n = all.findIndex((r) => r.id === repair.id);
    all.splice(n + by, 0, ...all.splice(n, 1));
    void scene.commit(`A repair moved ${by < 0 ? "up" : "down"}`);
  }
  /** Specks known of this camera from other scenes, as a line that can be taken in; null where there are none. */
  const known = shallowRef<AnyRepair | null>(null);
  async function askKnown(): Promise<void> {
    const id = scene.opened?.id;
    known.value = null;
    if (!id || (scene.document?.base?.kind ?? "frame") !== "frame") return;
    const found = await client
      .POST("/api/scenes/{scene_id}/mend/known", { params: params(), body: { document: scene.current() } })
      .catch(() => null);
    if (scene.opened?.id === id) known.value = (found?.data as AnyRepair | undefined) ?? null;
  }
  async function takeKnown(): Promise<void> {
    const line = known.value;
    known.value = null;
    if (line) await add(line, "Specks known of this camera");
  }
  /** How many specks are left on the frame, asked in passing. */
  async function count(): Promise<void> {
    const id = scene.opened?.id;
    if (!id) return;
    counted.value = null;
    const found = await client
      .POST("/api/scenes/{scene_id}/mend/specks", { params: params(), body: { document: scene.current() } })
      .catch(() => null);
    if (scene.opened?.id === id && found) counted.value = { id, count: found.data?.spots.length ?? 0 };
    await askKnown();
  }
  return {
    repairs, latches, open, brush, setBrush, pointed, doing, done, skies, proposals, hidden, left, findSpecks, speck, draft, sketch, dropSketch, stroke, wire, regrow, regrowLatch, limit,
    choose, again, hide, keepHidden, putBack, bringSky, known, askKnown, takeKnown, remove, shift, count,
  }; // prettier-ignore
});
