<script setup lang="ts">
/** The brush, and the stroke under way. */
import { computed } from "vue";

import type { BrushTool } from "./kinds/painting";

const props = defineProps<{ tool: BrushTool }>();
const radius = computed(() => props.tool.radius());
const path = computed(() => props.tool.path());
const at = computed(() => props.tool.cursorAt());
</script>

<template>
  <polyline
    v-if="path.length"
    class="stroke"
    :points="path.map((p) => `${p.x},${p.y}`).join(' ')"
    :stroke-width="2 * radius"
  />
  <template v-if="at">
    <circle class="brush dark" :cx="at.x" :cy="at.y" :r="radius" />
    <circle class="brush" :cx="at.x" :cy="at.y" :r="radius" />
  </template>
</template>

<style scoped>
.stroke {
  fill: none;
  stroke: rgb(255 255 255 / 35%);
  stroke-linecap: round;
  stroke-linejoin: round;
}
.brush {
  fill: none;
  stroke: var(--mark);
}
.brush.dark {
  stroke: rgb(0 0 0 / 50%);
  stroke-width: 3;
}
</style>
