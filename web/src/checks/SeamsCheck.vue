<script setup lang="ts">
/** Which frame is shown where: each in its tint, the seams between them. */
import { onBeforeUnmount, ref, shallowRef, watch } from "vue";

import { picture } from "../api/client";
import type { Frame } from "../model/plane";
import { rgbOf, SEAM_TINTS, tinted } from "../model/seams";
import { nextNumber, windowId } from "../stores/pictures";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

const props = defineProps<{ frame: Frame }>();
const scene = useScene();
const view = useView();
const canvas = ref<HTMLCanvasElement>();
const numbers = shallowRef<ImageData | null>(null);
const LONG = 1400;
let gone = false;
onBeforeUnmount(() => (gone = true));

async function ask(): Promise<void> {
  if ((scene.document?.base?.kind ?? "frame") === "frame" || scene.dragging) return;
  const [w, h] = scene.map!.size as [number, number];
  const k = Math.min(1, LONG / Math.max(w, h));
  const answer = await picture(`/api/scenes/${scene.opened!.id}/seams`, {
    document: scene.current(), width: Math.max(1, Math.round(w * k)), height: Math.max(1, Math.round(h * k)),
    view: `${windowId}/seams`, number: nextNumber(),
  }).catch((error: Error) => (scene.notices.tell("seams", error), null)); // prettier-ignore
  if (!answer || gone) return;
  const bitmap = await createImageBitmap(answer.blob);
  const pen = new OffscreenCanvas(bitmap.width, bitmap.height).getContext("2d")!;
  pen.drawImage(bitmap, 0, 0);
  numbers.value = pen.getImageData(0, 0, bitmap.width, bitmap.height);
}
watch(() => scene.tick, ask, { immediate: true });
watch([numbers, () => view.member, canvas], () => {
  const [data, surface] = [numbers.value, canvas.value];
  if (!data || !surface) return;
  surface.width = data.width;
  surface.height = data.height;
  const tints = Array.from({ length: SEAM_TINTS }, (_, n) => rgbOf(`--seam-${n + 1}`));
  const shown = tinted(data.data, data.width, tints, view.member);
  surface.getContext("2d")!.putImageData(new ImageData(shown, data.width, data.height), 0, 0);
});
</script>

<template>
  <canvas
    ref="canvas"
    class="seams"
    :style="{
      left: `${props.frame.left}px`,
      top: `${props.frame.top}px`,
      width: `${props.frame.width}px`,
      height: `${props.frame.height}px`,
    }"
  />
</template>

<style scoped>
.seams {
  position: absolute;
  pointer-events: none;
}
</style>
