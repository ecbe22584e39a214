/** Kept states of a scene, and two states side by side. */
import { defineStore } from "pinia";
import { computed, reactive, ref, shallowRef, watch } from "vue";

import { checked, checkOf } from "../checks";
import { client, groundOf, need, type SceneDocument, type Schemas } from "../api/client";
import { framesOf } from "../api/frames";
import { useRemoval } from "../composables/removal";
import { useScene } from "./scene";

export type Keep = Schemas["KeepOut"];
/** How two states are looked at. */
export const WAYS = {
  split: "Split",
  side: "Side by side",
  blink: "Blink",
  difference: "Difference in stops",
} as const;
export type Way = keyof typeof WAYS;
/** What gives a picture its shape: of both states it is today's, so that only light is compared. */
const SHAPE = ["lens", "plumb", "trim", "projection"];
/** After so long, ms, one is offered a look at the start. */
export const LONG_AT_IT = 20 * 60_000;

export const useKeeps = defineStore("keeps", () => {
  const scene = useScene();
  const keeps = shallowRef<Keep[]>([]);
  const way = ref<Way | "">("");
  /** The state that now is compared with: a keep's id, "light" or "original". */
  const with_ = ref("light");
  /** Where the split lies, 0–1, and whether its line stands upright. */
  const split = reactive({ at: 0.5, upright: true });
  const documents = shallowRef<Record<number, SceneDocument>>({});
  const changes = shallowRef<string[] | null>(null);
  /** Long at it: a look at the start is offered, once to a visit. */
  const offered = ref(false);
  let timer = 0;
  let began = 0;

  watch(
    () => scene.opened?.id,
    () => {
      keeps.value = scene.opened?.keeps ?? [];
      documents.value = {};
      way.value = "";
      with_.value = "light";
      changes.value = null;
      offered.value = false;
      window.clearTimeout(timer);
      began = scene.opened?.revision.number ?? 0;
      // one who has changed nothing has nothing to compare
      timer = window.setTimeout(() => (offered.value = scene.revision?.number !== began), LONG_AT_IT);
    },
    { immediate: true },
  );

  const named = computed(() => {
    const kept = keeps.value.find((k) => k.id === with_.value);
    if (with_.value === "earlier") return earlier.value.name;
    if (elsewhere.value) return elsewhere.value.name;
    return kept?.name ?? (with_.value === "original" ? "Original, as shot" : "Before Light");
  });
  /** The revision that is compared with, where it is one. */
  function numberOf(): number | undefined {
    if (with_.value === "earlier") return earlier.value.number;
    return keeps.value.find((k) => k.id === with_.value)?.number;
  }
  /** Other scenes of the outing; side by side is all that can be said of two pictures. */
  const others = shallowRef<{ id: string; name: string }[]>([]);
  const elsewhere = computed(() => others.value.find((o) => `scene ${o.id}` === with_.value) ?? null);
  async function loadOthers(): Promise<void> {
    const opened = scene.opened;
    if (!opened) return;
    const frames = await framesOf(opened.outing).catch((error: unknown) => (say(error), []));
    if (scene.opened?.id !== opened.id) return;
    others.value = frames.flatMap((f) => f.scenes).filter((s) => s.id !== opened.id);
  }
  const params = () => ({ path: { scene_id: scene.opened!.id } });

  async function load(): Promise<void> {
    const id = scene.opened?.id;
    if (!id) return;
    const got = await need(client.GET("/api/scenes/{scene_id}/keeps", { params: params() }));
    if (scene.opened?.id === id) keeps.value = got;
  }
  const say = (error: unknown) => scene.notices.tell("keeps", error);

  /** Keep the state as it stands, once it is saved. */
  async function keep(name = ""): Promise<void> {
    const id = scene.opened?.id;
    if (scene.saving !== "saved") await scene.settled();
    if (!id || scene.coming || scene.opened?.id !== id || scene.saving !== "saved") return;
    try {
      await need(client.POST("/api/scenes/{scene_id}/keeps", { params: params(), body: { name } }));
      scene.notices.settle("keeps");
      await load();
    } catch (error) {
      say(error);
    }
  }
  async function rename(kept: Keep, name: string): Promise<void> {
    if (!name.trim() || name === kept.name) return;
    await need(client.POST("/api/names", { body: { what: "keep", id: kept.id, name } }))
      .then(load)
      .catch(say);
  }
  const removal = useRemoval(load);
  const remove = (kept: Keep) => removal.remove("keep", [kept.id]).catch(say);
  const putBack = () => removal.takeBack(removal.last.value).catch(say);

  /** A kept state's document. */
  async function documentOf(number: number): Promise<SceneDocument | null> {
    const held = documents.value[number];
    if (held) return held;
    const path = { scene_id: scene.opened!.id, number };
    try {
      const got = await need(client.GET("/api/scenes/{scene_id}/revisions/{number}", { params: { path } }));
      const document = got.document;
      documents.value = { ...documents.value, [number]: document };
      return document;
    } catch (error) {
      say(error);
      return null;
    }
  }

  /** The state that is compared with, in today's shape; null while it is on its way. */
  const other = computed<SceneDocument | null>(() => {
    const now = scene.document;
    if (!now) return null;
    const from = { station: "Light", line: null };
    if (with_.value === "light") return checked(now, checkOf("start"), from);
    if (with_.value === "original") return shaped(checked(now, checkOf("untouched"), from), now);
    const held = documents.value[numberOf() ?? -1];
    return held ? shaped(held, now) : null;
  });

  /** Compare now with another state. */
  async function compare(what: string, how: Way = way.value || "split"): Promise<void> {
    with_.value = what;
    way.value = what.startsWith("scene ") ? "side" : how;
    changes.value = null;
    const kept = keeps.value.find((k) => k.id === what);
    if (kept) await documentOf(kept.number);
  }
  function end(): void {
    way.value = "";
    changes.value = null;
  }

  /** Compare with the state one has opened. */
  async function takeOffer(): Promise<void> {
    offered.value = false;
    await compareWith(began, "When you came");
  }
  /** A revision that is no keep, once it is compared with, and how it is called. */
  const earlier = ref({ number: 0, name: "" });
  /** Compare with any earlier revision. */
  async function compareWith(number: number, name: string): Promise<void> {
    if (!(await documentOf(number))) return;
    earlier.value = { number, name };
    with_.value = "earlier";
    way.value = "split";
  }

  /** What is different, in sentences. */
  async function tell(): Promise<void> {
    if (!scene.opened || !other.value) return;
    const before = documents.value[numberOf() ?? -1] ?? other.value;
    try {
      const body = {
        before: JSON.parse(JSON.stringify(before)) as Record<string, unknown>,
        after: scene.current(),
      };
      changes.value = await need(client.POST("/api/scenes/{scene_id}/changes", { params: params(), body }));
    } catch (error) {
      say(error);
    }
  }
  return {
    keeps, way, with_, named, split, other, others, elsewhere, offered, changes, load, loadOthers, takeOffer, keep, rename, remove, putBack, removed: removal.last, documentOf,
    compare, compareWith, end, tell,
  }; // prettier-ignore
});

/** A state in the shape of another. */
export function shaped(state: SceneDocument, like: SceneDocument): SceneDocument {
  const out = JSON.parse(JSON.stringify(state)) as SceneDocument;
  out.ground ??= {} as SceneDocument["ground"]; // a state of long ago says nothing of it
  const ground = groundOf(out);
  const now = groundOf(like);
  for (const kind of SHAPE) if (now[kind]) ground[kind] = JSON.parse(JSON.stringify(now[kind]));
  out.shapes = JSON.parse(JSON.stringify(like.shapes ?? [])) as SceneDocument["shapes"];
  return out;
}
