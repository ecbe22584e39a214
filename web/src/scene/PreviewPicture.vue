<script setup lang="ts">
/** A small picture of this very frame with something about a line changed: one of several to choose from. */
import { onBeforeUnmount, ref, watch } from "vue";

import { picture } from "../api/client";
import { Newest, nextNumber, windowId } from "../stores/pictures";
import { useScene } from "../stores/scene";

const props = defineProps<{
  name: string;
  /** A line of Ground by its kind, or one of Light by its id. */
  kind: string;
  values: Record<string, unknown>;
  width: number;
  revision?: number;
}>();
const scene = useScene();
const source = ref("");
const height = ref(60);
const asked = new Newest<string>(
  (url) => {
    if (source.value) URL.revokeObjectURL(source.value);
    source.value = url;
  },
  () => undefined,
);

function ask(): void {
  const map = scene.map;
  if (!scene.opened || !map || scene.dragging) return;
  const id = scene.opened.id;
  const box = map.kept?.length ? map.kept : map.box;
  const shape = (box[3]! - box[1]!) / (box[2]! - box[0]!);
  height.value = Math.min(Math.round(props.width * shape), props.width);
  const width = Math.round(height.value / shape);
  asked.ask(async () => {
    interface Line {
      id?: string;
      params: object;
      revision: number;
    }
    const document = scene.current() as { ground: Record<string, Line>; moves: Line[] };
    const line = document.ground[props.kind] ?? document.moves.find((m) => m.id === props.kind);
    if (!line) return null;
    Object.assign(line.params, props.values);
    if (props.revision) line.revision = props.revision;
    const got = await picture(`/api/scenes/${id}/picture`, {
      document,
      width: width * 2,
      height: height.value * 2,
      full: false,
      view: `${windowId}/${props.kind}-${props.name}`,
      number: nextNumber(),
    });
    return got ? URL.createObjectURL(got.blob) : null;
  });
}
let soon = 0;
watch(
  () => scene.tick,
  () => {
    window.clearTimeout(soon);
    soon = window.setTimeout(ask, 350);
  },
  { immediate: true },
);
onBeforeUnmount(() => {
  window.clearTimeout(soon);
  if (source.value) URL.revokeObjectURL(source.value);
});
</script>

<template>
  <img v-if="source" :src="source" :alt="name" :style="{ height: `${height}px` }" />
  <span v-else class="blank" :style="{ width: `${width}px`, height: `${height}px` }" />
</template>

<style scoped>
img {
  display: block;
  max-width: 100%;
}
.blank {
  display: block;
  background: var(--rule);
}
</style>
