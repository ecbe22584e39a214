<script setup lang="ts">
/** The sheet around the picture: bare paper, and a line if there is one. */
import { computed } from "vue";

import type { Frame } from "../model/plane";
import { useProof } from "../stores/proof";

const props = defineProps<{ frame: Frame }>();
const proof = useProof();
/** All that hangs: the sheet, and its mat. */
const hung = computed(() => {
  const s = proof.sheet!;
  const { left, top, width, height } = props.frame;
  return { x: left + s.left * width, y: top + s.top * height, w: s.width * width, h: s.height * height };
});
const mat = computed(() => proof.paper?.params.mat ?? 0);
/** Stage px of a millimetre. */
const mm = computed(() => hung.value.w / (proof.layout!.sheet![0]! + 2 * mat.value));
/** The sheet itself. */
const box = computed(() => {
  const [w, h] = proof.layout!.sheet as [number, number];
  const edge = mat.value * mm.value;
  return { x: hung.value.x + edge, y: hung.value.y + edge, w: w * mm.value, h: h * mm.value };
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
    :style="{ left: `${hung.x}px`, top: `${hung.y}px`, width: `${hung.w}px`, height: `${hung.h}px` }"
  />
  <svg class="sheet" role="img" :aria-label="`A sheet of ${proof.paper?.name}`">
    <path
      v-if="mat"
      class="mat"
      :d="`M${hung.x} ${hung.y}h${hung.w}v${hung.h}h${-hung.w}ZM${box.x} ${box.y}v${box.h}h${box.w}v${-box.h}Z`"
    />
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
.mat {
  fill: var(--leaf);
  stroke: var(--rule);
}
.ruled {
  fill: none;
  stroke: var(--ink);
}
</style>
