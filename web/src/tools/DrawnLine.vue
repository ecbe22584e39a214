<script setup lang="ts">
/** The line that is being drawn. */
import { computed } from "vue";

import type { Frame } from "../model/plane";
import type { LineTool } from "./kinds/lining";

const props = defineProps<{ tool: LineTool; frame: Frame }>();
const way = computed(() => {
  const line = props.tool.line();
  return line ? `M${line.a.x} ${line.a.y}L${line.b.x} ${line.b.y}` : "";
});
</script>

<template>
  <path v-if="way" :d="way" class="under" />
  <path v-if="way" :d="way" class="line" />
</template>

<style scoped>
.under {
  stroke: rgb(0 0 0 / 55%);
  stroke-width: 4;
}
.line {
  stroke: var(--mark);
  stroke-width: 1.6;
}
</style>
