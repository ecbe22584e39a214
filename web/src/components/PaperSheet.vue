<script setup lang="ts">
/** The sheet around the picture: bare paper, and a line if there is one. */
import { computed } from "vue";

import type { Frame } from "../model/plane";
import { useProof } from "../stores/proof";

const props = defineProps<{ frame: Frame }>();
const proof = useProof();
const box = computed(() => {
  const s = proof.sheet!;
  const { left, top, width, height } = props.frame;
  return { x: left + s.left * width, y: top + s.top * height, w: s.width * width, h: s.height * height };
});
/** What of the picture is seen on it. */
const seen = computed(() => {
  const [x0, y0, x1, y1] = proof.layout!.region as [number, number, number, number];
  const { left, top, width, height } = props.frame;
  return { x: left + x0 * width, y: top + y0 * height, w: (x1 - x0) * width, h: (y1 - y0) * height };
});
const around = computed(() => {
  const [b, s] = [box.value, seen.value];
  return `M${b.x} ${b.y}h${b.w}v${b.h}h${-b.w}ZM${s.x} ${s.y}v${s.h}h${s.w}v${-s.h}Z`;
});
/** Stage px of a millimetre. */
const mm = computed(() => box.value.w / proof.layout!.sheet![0]!);
const line = computed(() => (proof.paper?.params.line ?? 0) * mm.value);
const out = computed(() => ((proof.paper?.params.gap ?? 0) + (proof.paper?.params.line ?? 0) / 2) * mm.value);
/** Bare paper as the screen shows it. */
const tone = computed(() => {
  const white = proof.look === "look" && proof.white ? (proof.layout?.tone?.[0] ?? 1) : 1;
  return `rgb(${Array(3)
    .fill(Math.round(255 * (1.055 * white ** (1 / 2.4) - 0.055)))
    .join(" ")})`;
});
</script>

<template>
  <div
    class="shadow"
    :style="{ left: `${box.x}px`, top: `${box.y}px`, width: `${box.w}px`, height: `${box.h}px` }"
  />
  <svg class="sheet" role="img" :aria-label="`A sheet of ${proof.paper?.name}`">
    <path :d="around" :fill="tone" />
    <rect
      v-if="line"
      :x="seen.x - out"
      :y="seen.y - out"
      :width="seen.w + 2 * out"
      :height="seen.h + 2 * out"
      :stroke-width="Math.max(line, 0.6)"
      class="ruled"
    />
  </svg>
</template>

<style scoped>
.sheet {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.shadow {
  position: absolute;
  box-shadow: 0 3px 9px var(--mark-under);
  pointer-events: none;
}
.ruled {
  fill: none;
  stroke: var(--ink);
}
</style>
