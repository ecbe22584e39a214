/** The scene at work: its document, and how it is changed. How it is saved, and what its lines and latches are made of,
 * stands in scene/. */
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import {
  ask,
  client,
  groundOf,
  need,
  type GroundLine,
  type SceneDocument,
  type Schemas,
} from "../api/client";
import { untilAnswered } from "../api/line";
import { checked, checkOf } from "../checks";
import { Plane } from "../model/plane";
import { useNotices } from "./notices";
import { errandWork } from "./scene/errands";
import { latchWork } from "./scene/latches";
import { lines } from "./scene/lines";
import { savingWork } from "./scene/saving";
import { useView } from "./view";

export const useScene = defineStore("scene", () => {
  const opened = shallowRef<Schemas["SceneOut"] | null>(null);
  /** The scene that is being opened: until it is there, nothing is done with the one that was open before. */
  const coming = ref("");
  const vocabulary = shallowRef<Schemas["Vocabulary"] | null>(null);
  const document = ref<SceneDocument | null>(null);
  /** Rises with every change that the picture must follow. */
  const tick = ref(0);
  const dragging = ref(false);
  /** Something on screen is not committed yet. */
  const dirty = ref(false);
  const finding = ref(false);
  const notices = useNotices();
  const openMove = ref<string | null>(null);
  const openLatch = ref<string | null>(null);
  const openIngredient = ref<string | null>(null);

  const moves = computed(() => document.value?.moves ?? []);
  const latches = computed(() => document.value?.latches ?? []);
  const lightKinds = computed(() => vocabulary.value?.moves.filter((m) => m.band === "light") ?? []);
  const groundKinds = computed(() => vocabulary.value?.moves.filter((m) => m.band === "ground") ?? []);
  const ingredientKinds = computed(() => vocabulary.value?.ingredients ?? []);
  const latch = computed(() => latches.value.find((l) => l.id === openLatch.value) ?? null);
  const nameOf = (id: string | null | undefined) => latches.value.find((l) => l.id === id)?.name ?? "";
  /** The map of the picture that is shown; it comes with every picture. */
  const map = shallowRef<Schemas["MapOut"] | null>(null);
  const plane = computed(() => (map.value ? new Plane(map.value) : null));
  const state = shallowRef<Schemas["GroundState"] | null>(null);

  /** A document on screen; what was open and is not in it closes. */
  function show(next: SceneDocument): void {
    document.value = JSON.parse(JSON.stringify(next)) as SceneDocument;
    dirty.value = false;
    const { repairs, shapes } = document.value;
    const ofPapers = (document.value.papers ?? []).flatMap((p) => p.moves ?? []) as { id: string }[];
    const lines = [...moves.value, ...ofPapers, ...(repairs ?? []), ...(shapes ?? [])];
    const known = [...lines.map((m) => m.id), ...Object.keys(document.value.ground ?? {})];
    if (openMove.value && !known.includes(openMove.value)) openMove.value = null;
    if (!latches.value.some((l) => l.id === openLatch.value)) openLatch.value = null;
    tick.value++;
  }
  /** The document as it stands, to send along with a request. */
  function current(): SceneDocument {
    return JSON.parse(JSON.stringify(document.value)) as SceneDocument;
  }

  const { begin, latestOf, commitTo, ...saved } = savingWork({
    opened, coming, document, tick, dragging, dirty, current, show, awaited: (id) => awaited(id),
  }); // prettier-ignore
  const { errand, endErrands, arrive, awaited } = errandWork({
    opened, document, current, commit: saved.commit, latestOf, commitTo,
  }); // prettier-ignore
  const core = {
    opened, vocabulary, document, openMove, openLatch, openIngredient, moves, latches, latch, lightKinds,
    ingredientKinds, plane, nameOf, commit: saved.commit,
  }; // prettier-ignore
  const ofLatches = latchWork(core);
  const ofLines = lines(core, ofLatches.readAt);

  let opening = 0;
  async function open(id: string): Promise<void> {
    const mine = ++opening;
    coming.value = id;
    vocabulary.value ??= await need(client.GET("/api/vocabulary"));
    const got = await need(client.GET("/api/scenes/{scene_id}", { params: { path: { scene_id: id } } }));
    if (mine !== opening) return; // another was opened meanwhile
    opened.value = got;
    coming.value = "";
    map.value = got.map;
    state.value = null;
    openMove.value = openLatch.value = openIngredient.value = null;
    notices.clear();
    arrive();
    begin(id, got.revision);
  }

  /** The document as a check wants to see it. */
  function shown(): Record<string, unknown> {
    const other = saved.peeking.value && saved.theirs.value;
    if (other) return other.document as Record<string, unknown>;
    const { comparing, station } = useView();
    const from = { station, line: openMove.value };
    return { ...checked(document.value!, checkOf(comparing), from) };
  }

  /** A line of Ground, the document's own. */
  function ground(kind: string): GroundLine {
    return groundOf(document.value!)[kind]!;
  }

  /** Set some of a Ground line's settings by hand, as one revision. */
  function setGround(kind: string, values: Record<string, unknown>, words: string): Promise<void> {
    const line = ground(kind);
    Object.assign(line.params, values);
    line.why = "";
    return saved.commit(words);
  }

  /** Ask Ground's finders something about the document as it stands. A refusal is said, and null; null also
   * where another scene is open by then, or the same was asked anew. */
  async function find<T>(what: string, more: Record<string, unknown> = {}): Promise<T | null> {
    if (!opened.value) return null;
    finding.value = true;
    return errand(`ground ${what}`, async (mine) => {
      try {
        const path = `/api/scenes/${mine.scene}/ground${what ? `/${what}` : ""}`;
        const body = await untilAnswered(
          () => ask<T>(path, { document: mine.now(), ...more }),
          (error) => notices.tell("ground", error),
          mine.here,
        );
        if (!mine.here()) return null;
        notices.settle("ground");
        return body;
      } catch (error) {
        if (mine.here()) notices.tell("ground", error);
      } finally {
        finding.value = false;
      }
      return null;
    });
  }

  /** A change that is being made (a drag): the picture follows, nothing is saved. */
  function touched(): void {
    dragging.value = dirty.value = true;
    tick.value++;
  }

  /** A setting of the document's own is being changed: the one way to do so, but for what is drawn. */
  function put(of: object, name: string, value: unknown): void {
    (of as Record<string, unknown>)[name] = value;
    touched();
  }

  /** A change that is done at once: one revision, with words for undo. */
  function edit(words: string, change: (draft: SceneDocument) => void): Promise<void> {
    change(document.value!);
    return saved.commit(words);
  }

  /** Something is tried that may be taken or left: the picture shows it at rest, nothing is saved. */
  function tryOut(): void {
    dirty.value = true;
    tick.value++;
  }

  return {
    opened, coming, vocabulary, document, tick, dragging, dirty, finding, notices, openMove, openLatch, openIngredient,
    moves, latches, lightKinds, groundKinds, ingredientKinds, latch, nameOf, map, plane, state, open, current,
    errand, endErrands, shown, ground, setGround, find, touched, put, edit, tryOut, ...saved, ...ofLatches, ...ofLines,
  }; // prettier-ignore
});
