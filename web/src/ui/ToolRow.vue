<script setup lang="ts">
/** Tools for the pointer, one in hand at a time; put down when they go. More buttons may stand beside them. */
import { onBeforeUnmount } from "vue";

import { useView } from "../stores/view";

defineProps<{ label: string; tools: { tool: string; word: string; hint?: string }[] }>();
const view = useView();
onBeforeUnmount(() => (view.tool = ""));
</script>

<template>
  <div class="tools" role="group" :aria-label="label">
    <slot name="first" />
    <button
      v-for="t in tools"
      :key="t.tool"
      class="plain"
      :class="{ on: view.tool === t.tool }"
      type="button"
      :data-help="t.hint"
      :aria-pressed="view.tool === t.tool"
      @click="view.tool = view.tool === t.tool ? '' : t.tool"
    >
      {{ t.word }}
    </button>
    <slot />
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  padding: 4px 0;
}
</style>
