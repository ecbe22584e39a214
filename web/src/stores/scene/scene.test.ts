import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { computed, ref, shallowRef } from "vue";

import type { IngredientLine, Kind, Latch, MoveLine, SceneDocument, Schemas } from "../../api/client";
import type { Core } from "./core";
import { takeKept } from "./kept";
import { holders, latchWork } from "./latches";
import { defaults, lines } from "./lines";

const kind = (name: string, more: Partial<Kind> = {}): Kind =>
  ({
    kind: name, label: name, revision: 2, spares: [], found: false,
    fields: [{ name: "ev", kind: "number", default: 0 }, { name: "rungs", kind: "drawn", default: [] }], ...more,
  }) as unknown as Kind; // prettier-ignore
const exposure = kind("exposure", { spares: ["highlights"] });
const ramp = kind("ramp", { fields: [] });
const another = kind("another", { fields: [] });

function scene() {
  const document = ref({ moves: [], latches: [], groups: [], ground: {} } as unknown as SceneDocument);
  const openLatch = ref<string | null>(null);
  const core = {
    opened: shallowRef({ as_shot: { kelvin: 5200, tint: 3 } } as unknown as Schemas["SceneOut"]),
    vocabulary: shallowRef({ spare_edges: { highlights: 1.5 }, latch_finish: [], edge_true: [] } as never),
    document,
    openMove: ref<string | null>(null),
    openLatch,
    openIngredient: ref<string | null>(null),
    moves: computed(() => document.value.moves),
    latches: computed(() => document.value.latches),
    latch: computed(() => document.value.latches.find((l) => l.id === openLatch.value) ?? null),
    lightKinds: computed(() => [exposure]),
    ingredientKinds: computed(() => [ramp, another]),
    plane: computed(() => ({ toSource: (p: { x: number; y: number }) => ({ x: p.x * 2, y: p.y * 2 }) })),
    nameOf: (id: string | null | undefined) => document.value.latches.find((l) => l.id === id)?.name ?? "",
    commit: vi.fn(() => Promise.resolve()),
  };
  const latches = latchWork(core as unknown as Core);
  return { ...core, ...latches, ...lines(core as unknown as Core, latches.readAt) };
}
let at: ReturnType<typeof scene>;
beforeEach(() => {
  setActivePinia(createPinia());
  at = scene();
});

describe("a line of Light", () => {
  it("comes with its kind's settings and spare clauses, on the open latch", () => {
    at.addLatch(ramp);
    at.openMove.value = null;
    at.addMove(exposure, { ev: 0.5 });
    const [line] = at.document.value.moves;
    expect(line).toMatchObject({ kind: "exposure", revision: 2, on: true, latch: at.openLatch.value });
    expect(line!.params).toEqual({ ev: 0.5, rungs: [] });
    expect(line!.spare).toMatchObject([
      { what: "highlights", edge: 1.5, read_at: { kelvin: 5200, duv: 0.003 } },
    ]);
    expect(at.openMove.value).toBe(line!.id);
    expect(at.commit).toHaveBeenLastCalledWith("exposure on ramp");
  });
  it("once more is another one, after the first, that shares nothing", () => {
    at.addMove(exposure, { ev: 1 });
    at.addMove(exposure, { ev: 2 });
    at.copyMove(at.document.value.moves[0]!.id);
    const all = at.document.value.moves as (MoveLine & { params: { ev: number } })[];
    expect(all.map((m) => m.params.ev)).toEqual([1, 1, 2]);
    expect(new Set(all.map((m) => m.id)).size).toBe(3);
    all[1]!.params.ev = 9;
    expect(all[0]!.params.ev).toBe(1);
  });
  it("keeps a drawn field empty and a point unset", () => {
    const fields = [
      { name: "at", kind: "point", default: null },
      { name: "list", kind: "drawn" },
    ];
    expect(defaults(kind("x", { fields: fields as Kind["fields"] }))).toEqual({ at: undefined, list: [] });
  });
});

describe("a latch", () => {
  it("gets a name that is free, and its first ingredient where it can be seen", () => {
    at.addLatch(ramp);
    at.addLatch(ramp);
    expect(at.latches.value.map((l) => l.name)).toEqual(["ramp", "ramp 2"]);
    const [one] = at.latches.value[0]!.ingredients;
    expect(one!.params).toEqual({ full: { x: 1, y: 0.36 }, none: { x: 1, y: 1.24 } });
  });
  it("made while a move without one is open is what that is latched to", () => {
    at.addMove(exposure);
    at.addLatch(ramp);
    expect(at.moves.value[0]!.latch).toBe(at.openLatch.value);
  });
  it("twice, and an ingredient twice, have ids of their own", () => {
    at.addLatch(ramp);
    at.copyLatch(at.openLatch.value!);
    at.copyIngredient(at.latch.value!.ingredients[0]!.id);
    const ids = at.latches.value.flatMap((l) => [l.id, ...l.ingredients.map((i) => i.id)]);
    expect(new Set(ids).size).toBe(ids.length);
    expect(at.latch.value!.ingredients).toHaveLength(2);
  });
  it("dropped on another makes one of both, and none of itself", () => {
    at.addLatch(ramp);
    at.addLatch(ramp);
    const [a, b] = at.latches.value.map((l) => l.id);
    at.joinLatches(a!, a!);
    expect(at.latches.value).toHaveLength(2);
    at.joinLatches(a!, b!);
    expect(at.latch.value!.ingredients.map((i) => (i.params as { latch: string }).latch)).toEqual([b, a]);
  });
});

describe("what holds on to a latch", () => {
  it("is a line of any band, and a latch made of it", () => {
    at.addMove(exposure);
    at.addLatch(ramp);
    at.addLatch(ramp);
    const [a, b] = at.latches.value.map((l) => l.id);
    const held = () => holders(at.document.value, a!).length;
    at.moves.value[0]!.latch = null;
    expect(held()).toBe(0);
    at.moves.value[0]!.latch = a!;
    expect(held()).toBe(1);
    at.document.value.ground = { noise: { latch: a } } as unknown as SceneDocument["ground"];
    at.document.value.loans = [{ latch: a }] as unknown as SceneDocument["loans"];
    expect(held()).toBe(3);
    at.joinLatches(b!, a!);
    expect(held()).toBe(4);
  });
});

describe("what saving put beside the document", () => {
  const latch = (strokes: unknown[], revision = 1, found: unknown = null): Latch =>
    ({
      id: "l",
      ingredients: [{ id: "i", kind: "hand", revision, found, params: { strokes } }],
    }) as unknown as Latch;
  const doc = (l: Latch) => ({ moves: [], groups: [], latches: [l] }) as unknown as SceneDocument;
  const strokesOf = (d: SceneDocument) =>
    (d.latches[0]!.ingredients[0] as IngredientLine & { params: { strokes: unknown[] } }).params.strokes;

  it("is taken where nothing was painted since", () => {
    const now = doc(latch([1, 2, 3]));
    takeKept(now, doc(latch([1, 2, 3])), doc(latch(["sheet"])));
    expect(strokesOf(now)).toEqual(["sheet"]);
  });
  it("is left where something was", () => {
    const now = doc(latch([1, 2, 3, 4]));
    takeKept(now, doc(latch([1, 2, 3])), doc(latch(["sheet"])));
    expect(strokesOf(now)).toEqual([1, 2, 3, 4]);
  });
  it("takes what was found, unless it is asked anew by now", () => {
    const now = doc(latch([]));
    takeKept(now, doc(latch([])), doc(latch([], 2, { mask: "m" })));
    expect(now.latches[0]!.ingredients[0]).toMatchObject({ revision: 2, found: { mask: "m" } });
    const asked = doc(latch([], 3));
    takeKept(asked, doc(latch([])), doc(latch([], 2, { mask: "m" })));
    expect(asked.latches[0]!.ingredients[0]).toMatchObject({ revision: 3, found: null });
  });
});
