/** Places whose light is watched: stops as the frame has them, and now. They are this browser's; nothing of the scene changes. */
import { useLocalStorage } from "@vueuse/core";
import { defineStore } from "pinia";
import { computed } from "vue";

import { client, need, type Schemas } from "../api/client";
import { useAsked } from "../composables/asked";
import type { Spot } from "../model/plane";
import { useScene } from "./scene";

/** So many are watched at a time; one more, and the oldest goes. */
const MOST = 8;
export type Reading = Schemas["Spot"];

export const useWatched = defineStore("watched", () => {
  const scene = useScene();
  /** By scene, in source coordinates: they stay where they are, however the picture is cropped. */
  const held = useLocalStorage<Record<string, Spot[]>>("sun-latch-watched", {});
  const here = computed(() => held.value[scene.opened?.id ?? ""] ?? []);
  /** Where they lie in the shown picture. */
  const places = computed(() => (scene.plane ? here.value.map((p) => scene.plane!.toPicture(p)) : []));

  function put(all: Spot[]): void {
    const { id } = scene.opened!;
    const others = Object.entries(held.value).filter(([of]) => of !== id);
    held.value = Object.fromEntries(all.length ? [...others, [id, all.slice(-MOST)]] : others);
  }
  const add = (at: Spot) => put([...here.value, scene.plane!.toSource(at)]);
  const move = (n: number, to: Spot) =>
    put(here.value.map((p, k) => (k === n ? scene.plane!.toSource(to) : p)));
  const remove = (n: number) => put(here.value.filter((_, k) => k !== n));

  const { value: readings } = useAsked(
    () => {
      if (scene.dragging) return undefined;
      const [id, at] = [scene.opened?.id, places.value];
      return id && at.length ? { id, at, tick: scene.tick } : null;
    },
    ({ id, at }, signal) => {
      const body = { document: scene.current(), places: at };
      return need(
        client.POST("/api/scenes/{scene_id}/watched", { params: { path: { scene_id: id } }, body, signal }),
      );
    },
  );
  return { places, readings, add, move, remove };
});
