<script setup lang="ts">
/** An outline being drawn, and places pointed at along a wire. */
import { computed } from "vue";

import type { OutlineTool } from "./kinds/mending";

const props = defineProps<{ tool: OutlineTool }>();
const line = computed(() => props.tool.line());
const places = computed(() => props.tool.places());
const drawn = computed(() => line.value.map((p) => `${p.x},${p.y}`).join(" "));
</script>

<template>
  <template v-if="line.length">
    <polygon class="dark" :points="drawn" />
    <polygon class="light" :points="drawn" />
  </template>
  <template v-for="(p, n) in places" :key="n">
    <circle class="dark" :cx="p.x" :cy="p.y" r="6" />
    <circle class="light" :cx="p.x" :cy="p.y" r="6" />
  </template>
</template>

<style scoped>
.dark,
.light {
  fill: none;
  stroke: rgb(0 0 0 / 55%);
  stroke-width: 3;
  stroke-linejoin: round;
}
.light {
  stroke: var(--mark);
  stroke-width: 1.2;
}
</style>
