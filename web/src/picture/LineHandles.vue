<script setup lang="ts">
/** Lines drawn for Plumb: their ends can be moved; letting go solves anew. */
import { computed } from "vue";

import type { Schemas } from "../api/client";
import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import DotHandle from "./DotHandle.vue";

type Line = Schemas["DrawnLine"];
const props = defineProps<{ lines: Line[]; frame: Frame }>();
const emit = defineEmits<{ moved: [] }>();
const scene = useScene();

const toStage = (p: Spot) => onStage(props.frame, scene.plane!.toPicture(p));
const toSource = (p: Spot) => scene.plane!.toSource(onPicture(props.frame, p));
const shown = computed(() =>
  props.lines.map((line) => ({ line, a: toStage(line.a as Spot), b: toStage(line.b as Spot) })),
);
/** The line drawn out over the picture, to see what it meets. */
function along(a: Spot, b: Spot): string {
  const dx = (b.x - a.x) * 6;
  const dy = (b.y - a.y) * 6;
  return `M${a.x - dx} ${a.y - dy}L${b.x + dx} ${b.y + dy}`;
}
function put(line: Line, end: "a" | "b", to: Spot): void {
  line[end] = toSource(to);
  scene.tick++;
}
</script>

<template>
  <g v-for="(s, n) in shown" :key="n">
    <path :d="along(s.a, s.b)" class="far" />
    <path :d="`M${s.a.x} ${s.a.y}L${s.b.x} ${s.b.y}`" class="shade firm" />
    <path :d="`M${s.a.x} ${s.a.y}L${s.b.x} ${s.b.y}`" class="line firm" />
    <DotHandle
      v-for="end in ['a', 'b'] as const"
      :key="end"
      :at="s[end]"
      shape="hollow"
      :label="`${s.line.what} line ${n + 1}, ${end === 'a' ? 'first' : 'second'} end`"
      @move="put(s.line, end, $event)"
      @done="emit('moved')"
    />
  </g>
</template>

<style scoped>
.far {
  stroke: rgb(255 255 255 / 45%);
  stroke-dasharray: 3 7;
}
</style>
