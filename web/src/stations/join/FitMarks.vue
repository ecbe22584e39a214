<script setup lang="ts">
/** Where the pairs of a sweep fit the least: a ring, and by how many px. */
import { computed } from "vue";

import { onStage, type Frame } from "../../model/plane";
import { useScene } from "../../stores/scene";

const props = defineProps<{ frame: Frame }>();
const scene = useScene();
const places = computed(() => {
  const base = scene.document?.base;
  const pairs = base?.kind === "sweep" ? (base.pairs ?? []) : [];
  return pairs
    .filter((p) => p.worst)
    .map((p) => ({
      at: onStage(props.frame, scene.plane!.toPicture({ x: p.worst![0]!, y: p.worst![1]! })),
      says: `${(p.apart ?? 0).toFixed(1)} px`,
    }));
});
</script>

<template>
  <g v-for="(p, n) in places" :key="n">
    <circle class="dark" :cx="p.at.x" :cy="p.at.y" r="10" />
    <circle :cx="p.at.x" :cy="p.at.y" r="10" />
    <text :x="p.at.x + 14" :y="p.at.y + 4">{{ p.says }}</text>
  </g>
</template>

<style scoped>
circle {
  fill: none;
  stroke: var(--mark);
  stroke-width: 1.5;
}
.dark {
  stroke: rgb(0 0 0 / 50%);
  stroke-width: 4;
}
text {
  fill: var(--mark);
  stroke: rgb(0 0 0 / 65%);
  stroke-width: 3;
  paint-order: stroke;
  font-size: 12px;
}
</style>
