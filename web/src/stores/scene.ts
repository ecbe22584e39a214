/** The scene at work: its document, what is saved, and how it is changed. */
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import {
  client,
  need,
  Refusal,
  token,
  type GroundLine,
  type IngredientLine,
  type Kind,
  type ParamField,
  type Latch,
  type MoveLine,
  type SceneDocument,
  type Schemas,
} from "../api/client";
import { compared } from "../model/compare";
import { Plane } from "../model/plane";
import { useView } from "./view";
import type { Values } from "../model/wording";

type Revision = Schemas["RevisionOut"];

export const useScene = defineStore("scene", () => {
  const opened = shallowRef<Schemas["SceneOut"] | null>(null);
  const vocabulary = shallowRef<Schemas["Vocabulary"] | null>(null);
  const document = ref<SceneDocument | null>(null);
  const revision = shallowRef<Revision | null>(null);
  /** Rises with every change that the picture must follow. */
  const tick = ref(0);
  const dragging = ref(false);
  const saving = ref<"saved" | "saving" | "unsaved">("saved");
  const problem = ref("");
  const openMove = ref<string | null>(null);
  const openLatch = ref<string | null>(null);
  const openIngredient = ref<string | null>(null);

  const moves = computed(() => (document.value?.moves ?? []) as unknown as MoveLine[]);
  const latches = computed(() => (document.value?.latches ?? []) as unknown as Latch[]);
  const lightKinds = computed(() => vocabulary.value?.moves.filter((m) => m.band === "light") ?? []);
  const groundKinds = computed(() => vocabulary.value?.moves.filter((m) => m.band === "ground") ?? []);
  const ingredientKinds = computed(() => vocabulary.value?.ingredients ?? []);
  const latch = computed(() => latches.value.find((l) => l.id === openLatch.value) ?? null);
  /** The map of the picture that is shown; it comes with every picture. */
  const map = shallowRef<Schemas["MapOut"] | null>(null);
  const plane = computed(() => (map.value ? new Plane(map.value) : null));
  const state = shallowRef<Schemas["GroundState"] | null>(null);

  function take(next: Revision): void {
    revision.value = next;
    document.value = structuredClone(next.document) as SceneDocument;
    saving.value = "saved";
    if (openMove.value?.length === 36 && !moves.value.some((m) => m.id === openMove.value))
      openMove.value = null;
    if (!latches.value.some((l) => l.id === openLatch.value)) openLatch.value = null;
    tick.value++;
  }

  async function open(id: string): Promise<void> {
    vocabulary.value ??= await need(client.GET("/api/vocabulary"));
    const got = await need(client.GET("/api/scenes/{scene_id}", { params: { path: { scene_id: id } } }));
    opened.value = got;
    map.value = got.map;
    state.value = null;
    openMove.value = openLatch.value = openIngredient.value = null;
    take(got.revision);
  }

  /** The document as it stands, to send along with a request. */
  function current(): Record<string, unknown> {
    return JSON.parse(JSON.stringify(document.value)) as Record<string, unknown>;
  }

  /** The document as a comparison wants to see it. */
  function shown(): Record<string, unknown> {
    return compared(document.value!, useView().comparing, openMove.value) as Record<string, unknown>;
  }

  /** A line of Ground, the document's own. */
  function ground(kind: string): GroundLine {
    return (document.value!.ground as unknown as Record<string, GroundLine>)[kind]!;
  }

  /** Set some of a Ground line's settings by hand, as one revision. */
  function setGround(kind: string, values: Record<string, unknown>, words: string): Promise<void> {
    const line = ground(kind);
    Object.assign(line.params, values);
    line.why = "";
    return commit(words);
  }

  /** Ask Ground's finders something about the document as it stands. A refusal is said, and null. */
  async function find<T>(what: string, more: Record<string, unknown> = {}): Promise<T | null> {
    if (!opened.value) return null;
    finding.value = true;
    try {
      const answer = await fetch(`/api/scenes/${opened.value.id}/ground${what ? `/${what}` : ""}`, {
        method: "POST",
        headers: { "Content-Type": "application/json", "X-CSRFToken": token() },
        body: JSON.stringify({ document: current(), ...more }),
      });
      const body = (await answer.json()) as T & { detail?: string };
      if (answer.ok) {
        problem.value = "";
        return body;
      }
      problem.value = body.detail ?? `The studio refused (${answer.status}).`;
    } catch {
      problem.value = "The studio does not answer. What you see is kept; try again in a moment.";
    } finally {
      finding.value = false;
    }
    return null;
  }
  const finding = ref(false);

  /** A change that is being made (a drag): the picture follows, nothing is saved. */
  function touched(): void {
    dragging.value = true;
    saving.value = "unsaved";
    tick.value++;
  }

  /** Something is tried that may be taken or left: the picture shows it at rest, nothing is saved. */
  function tryOut(): void {
    saving.value = "unsaved";
    tick.value++;
  }

  let queue: Promise<void> = Promise.resolve();

  /** A change that is done: one revision, with words for undo. */
  function commit(words: string): Promise<void> {
    dragging.value = false;
    saving.value = "saving";
    queue = queue.then(() => save(words));
    // what is saved is sent before what is looked at: a browser keeps few requests going at a time, and a
    // picture may wait for something to be found
    setTimeout(() => tick.value++);
    return queue;
  }

  /** Done when everything committed so far is saved or refused. */
  const saved = (): Promise<void> => queue;

  async function save(words: string): Promise<void> {
    if (!opened.value || !revision.value) return;
    const sent = current();
    try {
      revision.value = await need(
        client.POST("/api/scenes/{scene_id}/revisions", {
          params: { path: { scene_id: opened.value.id } },
          body: { base: revision.value.number, document: sent as never, words },
        }),
      );
      takeSheets(sent as unknown as SceneDocument, revision.value.document as SceneDocument);
      saving.value = dragging.value ? "unsaved" : "saved";
      problem.value = "";
    } catch (error) {
      refused(error);
    }
  }

  /** Strokes that were put on a sheet when they were saved, where none was painted since. */
  function takeSheets(sent: SceneDocument, saved: SceneDocument): void {
    const strokes = (of: SceneDocument) => {
      const lines = ((of.latches ?? []) as unknown as Latch[]).flatMap((l) => l.ingredients);
      return new Map(lines.map((i) => [i.id, i.params as { strokes?: unknown[] }]));
    };
    const [before, after] = [strokes(sent), strokes(saved)];
    for (const [id, params] of strokes(document.value!)) {
      const kept = after.get(id)?.strokes;
      if (!kept || kept.length === params.strokes?.length) continue;
      if (params.strokes?.length === before.get(id)?.strokes?.length) params.strokes = structuredClone(kept);
    }
  }

  function refused(error: unknown): void {
    if (!(error instanceof Refusal)) throw error;
    if (error.status === 409) {
      take(error.body as Revision);
      problem.value =
        "This scene was changed in another window. What was saved there is shown; your last change was not taken.";
    } else if (error.status === 422 && revision.value) {
      take(revision.value);
      problem.value = error.message;
    } else {
      problem.value = error.message;
    }
  }

  async function step(path: "undo" | "redo"): Promise<void> {
    await queue;
    if (!opened.value || !revision.value) return;
    const options = {
      params: { path: { scene_id: opened.value.id } },
      body: { base: revision.value.number },
    };
    try {
      take(
        await need(
          path === "undo"
            ? client.POST("/api/scenes/{scene_id}/undo", options)
            : client.POST("/api/scenes/{scene_id}/redo", options),
        ),
      );
    } catch (error) {
      refused(error);
    }
  }

  /** Put back what was saved last (Escape in mid-drag). */
  function restore(): void {
    if (!revision.value) return;
    dragging.value = false;
    take(revision.value);
  }

  const id = () => crypto.randomUUID();

  function addMove(kind: Kind, values: Values = {}, latchId: string | null = null): void {
    const held = latchId ?? openLatch.value;
    const placed: Values = {};
    if (kind.kind === "poured_light" && plane.value) {
      placed.start = plane.value.toSource({ x: 0.5, y: 0.5 });
      placed.end = plane.value.toSource({ x: 0.75, y: 0.5 });
    }
    const line = { ...lineOf(kind, { ...placed, ...values }), latch: held };
    document.value?.moves?.push(line as never);
    openMove.value = line.id!;
    void commit(`${kind.label}${nameOf(held) ? ` on ${nameOf(held)}` : ""}`);
  }

  /** A fresh line of a kind. */
  function lineOf(kind: Kind, values: Values): Partial<MoveLine> {
    const line = {
      id: id(), kind: kind.kind, revision: kind.revision, name: "", note: "", on: true, strength: 1,
      latch: null, group: null, spare: [], params: { ...defaults(kind), ...values },
    }; // prettier-ignore
    return line as never;
  }

  /** A move once more, after the first. */
  function copyMove(key: string): void {
    const all = document.value?.moves ?? [];
    const n = all.findIndex((m) => m.id === key);
    if (n < 0) return;
    const copy = { ...(JSON.parse(JSON.stringify(all[n])) as MoveLine), id: id() };
    all.splice(n + 1, 0, copy as never);
    openMove.value = copy.id;
    void commit(`${lightKinds.value.find((k) => k.kind === copy.kind)?.label} twice`);
  }

  function defaults(kind: Kind): Values {
    return Object.fromEntries(
      kind.fields.map((f) => [
        f.name,
        f.kind === "point" ? undefined : f.kind === "drawn" ? [] : structuredClone(f.default ?? null),
      ]),
    );
  }

  function nameOf(latchId: string | null | undefined): string {
    return latches.value.find((l) => l.id === latchId)?.name ?? "";
  }

  function addLatch(kind: Kind): void {
    if (!opened.value) return;
    const name = freeName(kind.label);
    const made = freshLatch(name, !kind.found);
    document.value?.latches?.push(made as never);
    openLatch.value = made.id;
    // made while a move is open that is latched nowhere yet, it is what the move is latched to
    const move = moves.value.find((m) => m.id === openMove.value);
    if (move && !move.latch) move.latch = made.id;
    addIngredient(kind, "add", `new latch ${name}`);
  }

  function freshLatch(name: string, edgeTrue: boolean): Latch {
    const declared = (fields: ParamField[] = []) =>
      Object.fromEntries(fields.map((f) => [f.name, f.default]));
    return {
      id: id(),
      name,
      ingredients: [],
      invert: false,
      fine_edges: false,
      ...declared(vocabulary.value?.latch_finish),
      edge_true: { on: edgeTrue, ...declared(vocabulary.value?.edge_true) },
      read_at: readAt(),
    } as unknown as Latch;
  }

  function freeName(base: string): string {
    const names = new Set(latches.value.map((l) => l.name));
    let name = base;
    for (let n = 2; names.has(name); n++) name = `${base} ${n}`;
    return name;
  }

  /** A latch once more, its ingredients its own. */
  function copyLatch(key: string): void {
    const from = latches.value.find((l) => l.id === key);
    if (!from) return;
    const copy = JSON.parse(JSON.stringify(from)) as Latch;
    copy.id = id();
    copy.name = freeName(from.name);
    for (const i of copy.ingredients) i.id = id();
    takeLatch(copy, `${from.name} twice`);
  }

  /** An ingredient of the opened latch once more, below the first. */
  function copyIngredient(key: string): void {
    const all = latch.value?.ingredients ?? [];
    const n = all.findIndex((i) => i.id === key);
    if (n < 0) return;
    const copy = { ...(JSON.parse(JSON.stringify(all[n])) as IngredientLine), id: id() };
    all.splice(n + 1, 0, copy as never);
    openIngredient.value = copy.id;
    void commit(`${ingredientKinds.value.find((k) => k.kind === copy.kind)?.label} twice`);
  }

  /** A latch that is ready, put on the shelf and opened. */
  function takeLatch(made: Latch, words: string): void {
    document.value?.latches?.push(made as never);
    openLatch.value = made.id!;
    openIngredient.value = made.ingredients[0]?.id ?? null;
    void commit(words);
  }

  /** Two latches in one: a latch made of both, whose join is then chosen in it. */
  function joinLatches(one: string, other: string): void {
    const another = ingredientKinds.value.find((k) => k.kind === "another");
    const first = latches.value.find((l) => l.id === other);
    if (!another || !first || one === other) return;
    const made = freshLatch(freeName(`${first.name} and ${nameOf(one)}`), false);
    made.ingredients = [other, one].map((latch) => ({
      id: id(), kind: "another", revision: another.revision, join: "add", invert: false, on: true, params: { latch },
    })) as never; // prettier-ignore
    takeLatch(made, `${made.name} in one`);
    openIngredient.value = made.ingredients[1]!.id!;
  }

  /** Ground as it is now, for latches to remember. */
  function readAt(): Schemas["ReadAt"] {
    const light = document.value?.ground?.colour_of_light?.params;
    const shot = opened.value!.as_shot;
    return {
      kelvin: light?.kelvin ?? shot.kelvin!,
      duv: (light?.tint ?? shot.tint!) / 1000,
      base_exposure: document.value?.ground?.base_exposure?.params?.ev ?? 0,
    };
  }

  function addIngredient(kind: Kind, join: IngredientLine["join"], words?: string): void {
    const held = latches.value.find((l) => l.id === openLatch.value);
    if (!held || !plane.value) return;
    const params = defaults(kind);
    if (kind.kind === "ramp") {
      params.full = plane.value.toSource({ x: 0.5, y: 0.18 });
      params.none = plane.value.toSource({ x: 0.5, y: 0.62 });
    }
    if (kind.kind === "pool") {
      params.centre = plane.value.toSource({ x: 0.5, y: 0.5 });
      params.edge = plane.value.toSource({ x: 0.68, y: 0.5 });
    }
    if (kind.kind === "another") params.latch = latches.value.find((l) => l.id !== held.id)?.id ?? "";
    const line = {
      id: id(),
      kind: kind.kind,
      revision: kind.revision,
      join,
      invert: false,
      on: true,
      params,
    };
    held.ingredients.push(line as never);
    openIngredient.value = line.id;
    void commit(words ?? `${kind.label} in ${held.name}`);
  }

  return {
    opened, vocabulary, document, revision, tick, dragging, saving, problem, openMove, openLatch,
    openIngredient, moves, latches, lightKinds, groundKinds, ingredientKinds, latch, plane, open, current,
    map, state, finding, ground, setGround, find, shown, touched, tryOut, commit, saved, step, restore, addMove, copyMove, lineOf, freshLatch, freeName, addLatch, copyLatch, copyIngredient, takeLatch, joinLatches, addIngredient, nameOf, readAt, refused,
  }; // prettier-ignore
});
