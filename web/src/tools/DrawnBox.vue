<script setup lang="ts">
/** The box that is being drawn. */
import { computed } from "vue";

import type { Frame } from "../model/plane";
import type { BoxTool } from "./kinds/boxing";

const props = defineProps<{ tool: BoxTool; frame: Frame }>();
const box = computed(() => props.tool.box());
</script>

<template>
  <g v-if="box">
    <rect
      v-for="shade in ['shade', 'line']"
      :key="shade"
      :class="shade"
      :x="Math.min(box.a.x, box.b.x)"
      :y="Math.min(box.a.y, box.b.y)"
      :width="Math.abs(box.b.x - box.a.x)"
      :height="Math.abs(box.b.y - box.a.y)"
    />
  </g>
</template>

<style scoped>
.shade,
.line {
  fill: none;
}
.shade {
  stroke: rgb(0 0 0 / 45%);
  stroke-width: 3;
}
.line {
  stroke: var(--mark);
  stroke-width: 1;
  stroke-dasharray: 5 4;
}
</style>
