<script setup lang="ts">
/** The line that is being drawn. */
import { computed } from "vue";

import type { LineTool } from "./kinds/lining";

const props = defineProps<{ tool: LineTool }>();
const way = computed(() => {
  const line = props.tool.line();
  return line ? `M${line.a.x} ${line.a.y}L${line.b.x} ${line.b.y}` : "";
});
</script>

<template>
  <path v-if="way" :d="way" class="shade firm" />
  <path v-if="way" :d="way" class="line firm" />
</template>
