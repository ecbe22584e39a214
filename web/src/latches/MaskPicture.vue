<script setup lang="ts">
/** A small picture of a latch, kept current. */
import { onBeforeUnmount, ref, watch } from "vue";

import { picture } from "../api/client";
import { oneByOne, Newest, nextNumber, windowId } from "../stores/pictures";
import { useScene } from "../stores/scene";

const props = defineProps<{
  latch: string;
  size: number;
  ingredient?: string;
  values?: Record<string, unknown>;
}>();
const scene = useScene();
const url = ref("");
const newest = new Newest<Blob>(
  (blob) => {
    if (url.value) URL.revokeObjectURL(url.value);
    url.value = URL.createObjectURL(blob);
  },
  () => undefined,
);
let last = "";

/** The document, with the ingredient's settings as if they were others. */
function asIf(): Record<string, unknown> {
  const document = scene.current();
  if (!props.values) return document;
  const latches = document.latches as { ingredients: { id: string; params: object }[] }[];
  for (const i of latches.flatMap((l) => l.ingredients))
    if (i.id === props.ingredient) Object.assign(i.params, props.values);
  return document;
}

watch(
  () => [props.latch, scene.tick] as const,
  () => {
    const held = scene.latches.find((l) => l.id === props.latch);
    const plane = scene.plane;
    if (!held || !plane || scene.dragging) return;
    // what it is made of may be another latch
    const whole = props.ingredient ? held.ingredients.find((i) => i.id === props.ingredient) : held;
    const nested = held.ingredients.some((i) => i.kind === "another");
    const now = JSON.stringify([whole, nested ? scene.latches : null, held.read_at, props.values]);
    if (now === last) return;
    last = now;
    const scale = (props.size * 2) / Math.max(plane.width, plane.height);
    const body = {
      document: asIf(), latch: props.latch, number: nextNumber(),
      ingredient: props.ingredient ?? "",
      width: Math.max(1, Math.round(plane.width * scale)),
      height: Math.max(1, Math.round(plane.height * scale)),
      view: `${windowId}/${(props.ingredient ?? props.latch).slice(0, 18)}/${props.size}/${Object.values(props.values ?? {}).join()}`,
    }; // prettier-ignore
    const id = scene.opened!.id;
    newest.ask(() => oneByOne(async () => (await picture(`/api/scenes/${id}/mask`, body))?.blob ?? null));
  },
  { immediate: true },
);
onBeforeUnmount(() => URL.revokeObjectURL(url.value));
</script>

<template>
  <img
    v-if="url"
    :src="url"
    :alt="`Mask of ${scene.nameOf(latch)}`"
    :style="{ maxWidth: `${size}px`, maxHeight: `${size}px` }"
  />
  <span v-else class="blank" :style="{ width: `${size}px`, height: `${size * 0.66}px` }" />
</template>

<style scoped>
img {
  display: block;
}
.blank {
  display: inline-block;
  background: var(--rule);
}
</style>
