/** The scene at work: its document, what is saved, and how it is changed. */
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import {
  ask,
  client,
  need,
  me,
  Refusal,
  type GroundLine,
  type IngredientLine,
  type Kind,
  type ParamField,
  type Latch,
  type MoveLine,
  type SceneDocument,
  type Schemas,
} from "../api/client";
import { checked, checkOf } from "../checks";
import { Plane } from "../model/plane";
import { Saver, type Edit, type SavingState } from "../saving/saver";
import { browserShelf } from "../saving/shelf";
import { useNotices } from "./notices";
import { windowId } from "./pictures";
import { useSession } from "./session";
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
  /** How what was committed stands with the server. */
  const saving = ref<SavingState>("saved");
  /** Something on screen is not committed yet. */
  const dirty = ref(false);
  /** What was saved elsewhere in the meantime, while it is to be decided which counts. */
  const theirs = shallowRef<Revision | null>(null);
  /** Theirs is looked at. */
  const peeking = ref(false);
  /** What a window that is gone had not saved of this scene. */
  const left = shallowRef<Edit[]>([]);
  const notices = useNotices();
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
    show(next.document as SceneDocument);
  }

  /** A document on screen; what was open and is not in it closes. */
  function show(next: SceneDocument): void {
    document.value = JSON.parse(JSON.stringify(next)) as SceneDocument;
    dirty.value = false;
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
    notices.clear();
    peeking.value = false;
    left.value = [];
    const before = savers.get(id);
    for (const [key, one] of savers) if (!one.unsaved) savers.delete(key);
    if (before?.unsaved) {
      // left before it was saved, and come back to: it goes on from there
      saver = before;
      revision.value = got.revision;
      saving.value = saver.state;
      theirs.value = saver.theirs as Revision | null;
      show(saver.latest as unknown as SceneDocument);
    } else {
      saver = saverOf(id);
      saver.open(id, got.revision);
      take(got.revision);
    }
    void lookForLeft(id, got.revision);
  }

  /** What windows that are gone had not saved of the scene: offered, unless the last of it was saved after all. */
  async function lookForLeft(id: string, now: Revision): Promise<void> {
    const found = await shelf.left(id);
    const edits = found.flatMap((kept) => {
      const known = kept.edits.findIndex((e) => e.key === now.key);
      const rest = kept.edits.slice(known + 1);
      return kept.base === now.number || known >= 0 ? rest : rest.slice(-1);
    });
    if (opened.value?.id !== id) return;
    if (edits.length) left.value = edits.sort((a, b) => a.made - b.made);
    else if (found.length) void shelf.clear(id);
  }

  /** The document as it stands, to send along with a request. */
  function current(): Record<string, unknown> {
    return JSON.parse(JSON.stringify(document.value)) as Record<string, unknown>;
  }

  /** The document as a comparison wants to see it. */
  function shown(): Record<string, unknown> {
    if (peeking.value && theirs.value) return theirs.value.document as unknown as Record<string, unknown>;
    const { comparing, station } = useView();
    const from = { station, line: openMove.value };
    return checked(document.value!, checkOf(comparing), from) as Record<string, unknown>;
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
      const body = await ask<T>(`/api/scenes/${opened.value.id}/ground${what ? `/${what}` : ""}`, {
        document: current(),
        ...more,
      });
      notices.settle("ground");
      return body;
    } catch (error) {
      notices.tell("ground", error);
    } finally {
      finding.value = false;
    }
    return null;
  }
  const finding = ref(false);

  /** A change that is being made (a drag): the picture follows, nothing is saved. */
  function touched(): void {
    dragging.value = dirty.value = true;
    tick.value++;
  }

  /** Something is tried that may be taken or left: the picture shows it at rest, nothing is saved. */
  function tryOut(): void {
    dirty.value = true;
    tick.value++;
  }

  const shelf = browserShelf(windowId);
  /** One to a scene; one that still has something to save goes on when its scene is left. */
  const savers = new Map<string, Saver>();
  let saver = saverOf("");

  function saverOf(id: string): Saver {
    const made: Saver = new Saver(
      (scene, base, edit) => {
        const params = { path: { scene_id: scene } };
        const body = { base, document: edit.document as never, words: edit.words, key: edit.key };
        return need(client.POST("/api/scenes/{scene_id}/revisions", { params, body }));
      },
      shelf,
      {
        state: (state) => {
          if (made !== saver) return;
          saving.value = state;
          theirs.value = made.theirs as Revision | null;
          if (state === "saved") notices.settle("saving");
          else if (state === "stopped") notices.tell("saving", made.sentence);
        },
        saved: (next, sent) => {
          if (made !== saver) return;
          revision.value = next as Revision;
          takeKept(sent.document as unknown as SceneDocument, next.document as SceneDocument);
        },
        refused: (sentence, edit, last) => {
          notices.tell("refused", `${sentence} “${edit.words}” was not taken; the rest is as it was.`);
          if (made === saver && last && !dragging.value) restore();
        },
      },
      me,
    );
    savers.set(id, made);
    return made;
  }
  const everySaver = (work: (one: Saver) => void) => savers.forEach(work);
  const session = useSession();
  session.onceSignedIn(() => {
    everySaver((one) => one.resume());
    tick.value++;
  });
  window.addEventListener("online", () => everySaver((one) => one.resume()));
  window.addEventListener("beforeunload", (e) => {
    if (dragging.value || [...savers.values()].some((one) => one.unsaved)) e.preventDefault();
  });

  /** A change that is done: one revision, with words for undo. Done when it is saved or refused. */
  function commit(words: string): Promise<void> {
    dragging.value = dirty.value = false;
    saver.commit(current(), words);
    // what is saved is sent before what is looked at: a browser keeps few requests going at a time, and a
    // picture may wait for something to be found
    setTimeout(() => tick.value++);
    return saver.settled();
  }

  /** The lines of Light as they were committed last, saved or on their way. */
  const committed = () => (saver.latest.moves ?? []) as { id?: string }[];

  /** What was put beside the document when it was saved: strokes on sheets, where none was painted since, and what
   * was found, where nothing else is looked for by now. */
  function takeKept(sent: SceneDocument, saved: SceneDocument): void {
    const linesOf = (of: SceneDocument) => {
      const lines = ((of.latches ?? []) as unknown as Latch[]).flatMap((l) => l.ingredients);
      return new Map(lines.map((i) => [i.id, i]));
    };
    const [before, after] = [linesOf(sent), linesOf(saved)];
    for (const [id, line] of linesOf(document.value!)) {
      const kept = after.get(id);
      if (!kept) continue;
      if (line.revision === before.get(id)?.revision) {
        line.revision = kept.revision;
        line.found = structuredClone(kept.found);
      }
      const strokesOf = (of?: IngredientLine) => (of?.params as { strokes?: unknown[] } | undefined)?.strokes;
      const strokes = strokesOf(kept);
      const [mine, theirs] = [strokesOf(line)?.length, strokesOf(before.get(id))?.length];
      if (strokes && mine === theirs && strokes.length !== mine)
        (line.params as { strokes?: unknown[] }).strokes = structuredClone(strokes);
    }
  }

  async function step(path: "undo" | "redo"): Promise<void> {
    if (dragging.value) restore();
    await saver.settled();
    if (!opened.value || !revision.value || saver.unsaved) return;
    const options = {
      params: { path: { scene_id: opened.value.id } },
      body: { base: saver.base },
    };
    try {
      const next = await need(
        path === "undo"
          ? client.POST("/api/scenes/{scene_id}/undo", options)
          : client.POST("/api/scenes/{scene_id}/redo", options),
      );
      notices.settle("step");
      stepped(next);
    } catch (error) {
      if (error instanceof Refusal && error.status === 409) {
        notices.tell("step", "This scene was changed in another window; what was saved there is shown.");
        stepped(error.body as Revision);
      } else notices.tell("step", error);
    }
  }
  /** Another revision is in force; what has been committed meanwhile stays on top. */
  function stepped(next: Revision): void {
    if (saver.unsaved) return;
    saver.moved(next);
    take(next);
  }

  /** Put back what was committed last, saved or on its way (Escape in mid-drag). */
  function restore(): void {
    if (!revision.value) return;
    dragging.value = dirty.value = false;
    show(saver.latest as unknown as SceneDocument);
  }

  /** Which of two that were saved from one state counts. */
  function decide(whose: "ours" | "theirs"): void {
    peeking.value = false;
    if (whose === "ours") saver.keepOurs();
    else take(saver.takeTheirs() as Revision);
    tick.value++;
  }

  /** Look at theirs, or at ours again. */
  function peek(): void {
    peeking.value = !peeking.value;
    tick.value++;
  }

  /** Take up what a window that is gone had not saved, or let it go. */
  function takeUp(take: boolean): void {
    const edits = left.value;
    left.value = [];
    if (opened.value) void shelf.clear(opened.value.id);
    if (!take || !edits.length) return;
    saver.takeUp(edits);
    show(saver.latest as unknown as SceneDocument);
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

  /** A fresh spare clause. */
  function spareOf(what: string): NonNullable<MoveLine["spare"]>[number] {
    return { what, edge: vocabulary.value?.spare_edges[what], read_at: readAt() } as never;
  }

  /** A fresh line of a kind. */
  function lineOf(kind: Kind, values: Values): Partial<MoveLine> {
    const line = {
      id: id(), kind: kind.kind, revision: kind.revision, name: "", note: "", on: true, strength: 1,
      latch: null, group: null, spare: kind.spares.map(spareOf), params: { ...defaults(kind), ...values },
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
    opened, vocabulary, document, revision, tick, dragging, saving, dirty, theirs, peeking, left, notices, openMove, openLatch,
    openIngredient, moves, latches, lightKinds, groundKinds, ingredientKinds, latch, plane, open, current,
    map, state, finding, ground, setGround, find, shown, touched, tryOut, commit, committed, step, restore, addMove, copyMove, lineOf, spareOf, freshLatch, freeName, addLatch, copyLatch, copyIngredient, takeLatch, joinLatches, addIngredient, nameOf, readAt, decide, peek, takeUp,
  }; // prettier-ignore
});
