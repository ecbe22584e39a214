<script setup lang="ts">
/** The patch a colour would be taken from, round the pointer, and the one it was taken from last. */
import { onStage, type Frame, type Spot } from "../model/plane";
import { FINGERTIP } from "../composables/picking";
import { PICKERS, useView } from "../stores/view";

defineProps<{ frame: Frame; pointer: Spot | null }>();
const view = useView();
</script>

<template>
  <svg class="picks">
    <template v-if="view.taken">
      <circle
        class="taken"
        data-testid="taken"
        :cx="onStage(frame, view.taken.at).x"
        :cy="onStage(frame, view.taken.at).y"
        :r="(view.taken.across * Math.max(frame.width, frame.height)) / 2"
      />
      <rect
        :x="onStage(frame, view.taken.at).x + 16"
        :y="onStage(frame, view.taken.at).y - 34"
        width="22"
        height="22"
        :fill="view.taken.shown"
      />
    </template>
    <circle
      v-if="pointer && PICKERS.includes(view.tool)"
      :cx="pointer.x"
      :cy="pointer.y"
      :r="FINGERTIP / 2"
    />
  </svg>
</template>

<style scoped>
.picks {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
circle {
  fill: none;
  stroke: var(--mark);
  filter: drop-shadow(0 0 1px var(--night));
}
.taken {
  stroke-width: 2;
}
rect {
  stroke: var(--mark);
  filter: drop-shadow(0 0 1px var(--night));
}
</style>
