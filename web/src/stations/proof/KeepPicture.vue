<script setup lang="ts">
/** A small picture of a kept state. */
import { useObjectUrl } from "@vueuse/core";

import { picture } from "../../api/client";
import { useAsked } from "../../composables/asked";
import { oneByOne, nextNumber, windowId } from "../../stores/pictures";
import { useScene } from "../../stores/scene";

const props = defineProps<{ number: number; name: string }>();
const scene = useScene();
/** Long edge, px: twice what is shown. */
const LONG = 192;
const { value } = useAsked(
  () => (scene.opened ? { opened: scene.opened, number: props.number } : null),
  async ({ opened, number }) => {
    const [w, h] = opened.map.size as [number, number];
    const scale = LONG / Math.max(w, h);
    const body = {
      revision: number, full: false, view: `${windowId}/keep/${number}`, number: nextNumber(),
      width: Math.max(1, Math.round(w * scale)), height: Math.max(1, Math.round(h * scale)),
    }; // prettier-ignore
    return (await oneByOne(() => picture(`/api/scenes/${opened.id}/picture`, body)))?.blob ?? null;
  },
);
const url = useObjectUrl(value);
</script>

<template>
  <img v-if="url" :src="url" :alt="name" />
  <span v-else>…</span>
</template>

<style scoped>
img {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: cover;
}
</style>
