<script setup lang="ts">
/** A small picture of a kept state. */
import { onBeforeUnmount, ref, watch } from "vue";

import { picture } from "../../api/client";
import { aside, nextNumber, windowId } from "../../stores/pictures";
import { useScene } from "../../stores/scene";

const props = defineProps<{ number: number; name: string }>();
const scene = useScene();
const url = ref("");
watch(
  () => [scene.opened?.id, props.number],
  async () => {
    const [id, size] = [scene.opened?.id, scene.map?.size];
    if (!id || !size) return;
    const scale = 192 / Math.max(size[0]!, size[1]!);
    const body = {
      revision: props.number, full: false, view: `${windowId}/keep/${props.number}`, number: nextNumber(),
      width: Math.max(1, Math.round(size[0]! * scale)), height: Math.max(1, Math.round(size[1]! * scale)),
    }; // prettier-ignore
    const got = await aside(() => picture(`/api/scenes/${id}/picture`, body)).catch(() => null);
    if (!got || scene.opened?.id !== id) return;
    URL.revokeObjectURL(url.value);
    url.value = URL.createObjectURL(got.blob);
  },
  { immediate: true },
);
onBeforeUnmount(() => URL.revokeObjectURL(url.value));
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
