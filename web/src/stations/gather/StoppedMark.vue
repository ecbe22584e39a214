<script setup lang="ts">
/** Over a frame seen whole: the place that made one stop. Squint tells later whether the eye still arrives there. */
import { useElementSize } from "@vueuse/core";
import { computed, provide, ref } from "vue";

import type { Frame } from "../../model/gather";
import { onPicture, onStage, type Frame as Placed, type Spot } from "../../model/plane";
import DotHandle from "../../picture/DotHandle.vue";
import { FRAME } from "../../picture/frame";

const props = defineProps<{ frame: Frame }>();
const emit = defineEmits<{ stopped: [at: Spot | null] }>();
const field = ref<HTMLElement>();
const { width, height } = useElementSize(field);
/** Where the picture lies in the field: as large as fits, in its middle. */
const lies = computed<Placed>(() => {
  const [w = 3, h = 2] = (props.frame.info.developed_size as number[] | undefined) ?? [];
  const scale = Math.min(width.value / w, height.value / h);
  const [pw, ph] = [w * scale, h * scale];
  return { left: (width.value - pw) / 2, top: (height.value - ph) / 2, width: pw, height: ph };
});
provide(FRAME, lies);
/** What is being carried, until it is let go. */
const carried = ref<Spot | null>(null);
const at = computed(() => carried.value ?? props.frame.stopped ?? null);
const within = (v: number) => Math.min(1, Math.max(0, v));
const placed = (stage: Spot) => {
  const { x, y } = onPicture(lies.value, stage);
  return { x: within(x), y: within(y) };
};
function pointed(e: MouseEvent): void {
  const box = field.value!.getBoundingClientRect();
  const stage = { x: e.clientX - box.left, y: e.clientY - box.top };
  const { x, y } = onPicture(lies.value, stage);
  if (x >= 0 && y >= 0 && x <= 1 && y <= 1) emit("stopped", { x, y });
}
function done(): void {
  if (carried.value) emit("stopped", carried.value);
  carried.value = null;
}
</script>

<template>
  <div ref="field" class="field" @click.self="pointed">
    <svg v-if="at && width">
      <DotHandle
        :at="onStage(lies, at)"
        label="What made you stop; Delete takes it back"
        @move="carried = placed($event)"
        @done="done"
        @remove="emit('stopped', null)"
      />
    </svg>
    <p class="asks">
      <template v-if="at">Here you stopped. Squint will tell whether the eye arrives there.</template>
      <template v-else>What made you stop? Click the place.</template>
      <button v-if="at" class="plain" type="button" @click="emit('stopped', null)">Clear</button>
      <button v-else class="plain" type="button" @click="emit('stopped', { x: 0.5, y: 0.5 })">
        Mark the middle
      </button>
    </p>
  </div>
</template>

<style scoped>
.field {
  position: absolute;
  inset: 0;
  cursor: crosshair;
}
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.asks {
  position: absolute;
  top: 8px;
  left: 50%;
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 2px 10px;
  border-radius: 4px;
  background: var(--panel);
  transform: translateX(-50%);
  white-space: nowrap;
}
</style>
