/** What is known of a print: how the picture lies on its paper, what that paper holds, what is better seen before. */
import { useLocalStorage } from "@vueuse/core";
import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import { ask, client, need, token, Refusal, type SceneDocument, type Schemas } from "../api/client";
import type { Sheet } from "../picture/viewport";
import { useAsked } from "../composables/asked";
import { nextNumber, windowId } from "./pictures";
import { useScene } from "./scene";
import { freshId } from "./scene/lines";
import { useTray } from "./tray";
import { useView } from "./view";

export type Paper = SceneDocument["papers"][number];
export type Look = "plain" | "look" | "gamut";
/** A card that everybody has, mm (ISO/IEC 7810, ID-1). */
export const CARD = 85.6;
const INCH = 25.4;

export const useProof = defineStore("proof", () => {
  const scene = useScene();
  const view = useView();
  const look = ref<Look>("look");
  /** Paper and ink as light as they are, not as the screen's white and black. */
  const white = ref(true);
  const press = shallowRef<Schemas["PressPaper"][]>([]);
  const flight = shallowRef<Schemas["Preflight"] | null>(null);
  const checking = ref(false);
  /** Preflight was made of another state than the one on screen. */
  const stale = ref(false);
  const strip = ref(false);
  const inches = useLocalStorage("sun-latch-inches", false);
  /** Px of this screen to an inch; 0 while nobody has held a card against it. */
  const screenPpi = useLocalStorage("sun-latch-screen-ppi", 0);

  const papers = computed(() => scene.document?.papers ?? []);
  const paper = computed(() => papers.value.find((p) => p.id === scene.document?.paper) ?? null);
  const atProof = computed(() => view.station === "Proof");
  const say = (error: unknown) => scene.notices.tell("proof", error);

  /** The sheet as the picture lies on it, in widths and heights of the whole picture. */
  const sheet = computed<Sheet | null>(() => {
    const l = layout.value;
    if (!l?.sheet || !l.size || !l.at || !paper.value) return null;
    const [x0, y0, x1, y1] = l.region as [number, number, number, number];
    const [w, h] = [l.size[0] / (x1 - x0), l.size[1] / (y1 - y0)];
    // a mat hangs around it
    const { mat, foot } = paper.value.params;
    const below = mat ? mat + foot : 0;
    return {
      left: x0 - (l.at[0] + mat) / w,
      top: y0 - (l.at[1] + mat) / h,
      width: (l.sheet[0] + 2 * mat) / w,
      height: (l.sheet[1] + mat + below) / h,
    };
  });
  /** Zoom at which a millimetre of the print is one on the screen; 0 while that is not known. */
  const trueZoom = computed(() =>
    layout.value?.ppi && screenPpi.value ? (screenPpi.value * window.devicePixelRatio) / layout.value.ppi : 0,
  );

  /** What the layout depends on: not on light. */
  const laidOutBy = () =>
    scene.opened && scene.document && atProof.value
      ? JSON.stringify([
          scene.opened.id, scene.map?.size, scene.document.paper,
          papers.value.map((p) => [p.id, p.profile, p.params]), scene.document.ground,
        ]) // prettier-ignore
      : undefined;
  const { value: layout } = useAsked(
    laidOutBy,
    (_, signal) =>
      need(
        client.POST("/api/scenes/{scene_id}/paper", {
          params: { path: { scene_id: scene.opened!.id } },
          body: { document: scene.current() },
          signal,
        }),
      ) as Promise<Schemas["LayoutOut"]>,
    (refusal) => (refusal ? say(refusal) : scene.notices.settle("proof")),
  );
  watch([() => scene.tick, atProof], () => (stale.value = true), { immediate: true });
  watch(
    () => scene.opened?.id,
    () => {
      layout.value = flight.value = null;
      strip.value = false;
    },
  );

  async function loadPress(): Promise<void> {
    if (press.value.length) return;
    try {
      press.value = await need(client.GET("/api/papers"));
    } catch (error) {
      say(error);
    }
  }

  /** A new paper in the scene, and the one it is proofed on. */
  function add(name: string, profile: Schemas["ProfileOut"] | null, surface?: string): void {
    const held = scene.document!;
    const shape = scene.map ? scene.map.size[0]! / scene.map.size[1]! : 1.5;
    const defaults = Object.fromEntries(scene.vocabulary!.paper.map((f) => [f.name, f.default]));
    const [width, height] = shape >= 1 ? [600, 400] : [400, 600];
    const made: Paper = {
      id: freshId(), name: freeName(name), profile,
      params: { ...defaults, ...paper.value?.params, width: paper.value?.params.width ?? width,
        height: paper.value?.params.height ?? height, ...(surface ? { surface } : {}) } as Schemas["PaperParams"],
      moves: [],
    }; // prettier-ignore
    (held as { papers?: unknown[] }).papers = [...papers.value, made];
    held.paper = made.id;
    void scene.commit(`Add paper ${made.name}`);
  }
  function freeName(name: string): string {
    const taken = new Set(papers.value.map((p) => p.name));
    let n = 2;
    let free = name;
    while (taken.has(free)) free = `${name} ${n++}`;
    return free;
  }
  async function addFromPress(one: Schemas["PressPaper"]): Promise<void> {
    const there = papers.value.find((p) => p.name === one.label);
    if (there) return choose(there.id);
    const id = scene.opened?.id;
    try {
      const profile = await need(client.POST("/api/profiles/press", { body: { paper: one.name } }));
      if (scene.opened?.id === id) add(one.label, profile, one.surface);
    } catch (error) {
      say(error);
    }
  }
  /** A profile from a file: of the paper there is, or of a new one. */
  async function upload(file: File): Promise<void> {
    const id = scene.opened?.id;
    try {
      const answer = await fetch(`/api/profiles?name=${encodeURIComponent(file.name)}`, {
        method: "PUT",
        headers: { "X-CSRFToken": token(), "Content-Type": "application/octet-stream" },
        body: file,
      }).catch(() => null);
      if (!answer) throw new Refusal(`${file.name} did not arrive: there is no connection to the server.`, 0);
      const got = (await answer.json()) as Schemas["ProfileOut"] & { detail?: string };
      if (!answer.ok) throw new Refusal(got.detail ?? `${file.name} was not taken.`, answer.status);
      scene.notices.settle("proof");
      if (scene.opened?.id === id) add(got.name || file.name, got);
    } catch (error) {
      say(error);
    }
  }
  function choose(id: string | null): void {
    if (!scene.document || (scene.document.paper ?? null) === id) return;
    scene.document.paper = id;
    const name = papers.value.find((p) => p.id === id)?.name;
    void scene.commit(name ? `Proof on ${name}` : "Proof on no paper");
  }
  function remove(one: Paper): void {
    const held = scene.document!;
    held.papers = held.papers.filter((p) => p.id !== one.id);
    if (held.paper === one.id) held.paper = null;
    void scene.commit(`Remove paper ${one.name}`);
  }
  /** Settings of the paper, as one revision. */
  function set(values: Partial<Schemas["PaperParams"]>, words: string): void {
    if (!paper.value) return;
    Object.assign(paper.value.params, values);
    void scene.commit(words);
  }
  function turn(): void {
    const p = paper.value?.params;
    if (p) set({ width: p.height, height: p.width }, "Turn paper");
  }

  let preflights = 0;
  async function preflight(bits = 16): Promise<void> {
    const mine = ++preflights;
    checking.value = true;
    await scene.errand("preflight", async (errand) => {
      try {
        const got = await ask<Schemas["Preflight"]>(`/api/scenes/${errand.scene}/preflight`, {
          document: errand.now(), bits, view: windowId, number: nextNumber(),
        }); // prettier-ignore
        if (!errand.here()) return;
        flight.value = got;
        stale.value = false;
        scene.notices.settle("proof");
      } catch (error) {
        if (errand.here()) say(error);
      } finally {
        if (mine === preflights) checking.value = false;
      }
    });
  }
  /** Have the press print what is saved, or a strip of it. */
  async function toPress(body: Schemas["ToPress"]): Promise<void> {
    const path = { scene_id: scene.opened!.id };
    try {
      useTray().put(await need(client.POST("/api/scenes/{scene_id}/press", { params: { path }, body })));
      scene.notices.settle("proof");
    } catch (error) {
      say(error);
    }
  }
  const mm = (value: number) =>
    inches.value ? `${(value / INCH).toFixed(1)} in` : `${Math.round(value)} mm`;
  return {
    look, white, layout, press, flight, checking, stale, strip, inches, screenPpi, papers, paper, sheet, trueZoom, loadPress,
    add, addFromPress, upload, choose, remove, set, turn, preflight, toPress, mm,
  }; // prettier-ignore
});
