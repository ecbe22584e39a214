<script setup lang="ts">
/** Painting a latch: which brush the pointer is. */
import { computed, onBeforeUnmount } from "vue";

import type { IngredientLine } from "../api/client";
import { useScene } from "../stores/scene";
import { useView, type Tool } from "../stores/view";

const props = defineProps<{ line: IngredientLine }>();
const scene = useScene();
const view = useView();
const BRUSHES: { tool: Tool; word: string; hint: string }[] = [
  { tool: "paint", word: "Paint", hint: "Lay down what the latch holds" },
  { tool: "seek", word: "Paint to edges", hint: "Hold only what looks like what the brush goes over" },
  { tool: "erase", word: "Erase", hint: "Take away what was painted" },
];
const strokes = computed(() => (props.line.params as unknown as { strokes: unknown[] }).strokes);

function clear(): void {
  strokes.value.splice(0);
  void scene.commit("All strokes taken out");
}
onBeforeUnmount(() => (view.tool = ""));
</script>

<template>
  <div class="tools" role="group" aria-label="Brush">
    <button
      v-for="b in BRUSHES"
      :key="b.tool"
      class="plain"
      :class="{ on: view.tool === b.tool }"
      type="button"
      :title="b.hint"
      :aria-pressed="view.tool === b.tool"
      @click="view.tool = view.tool === b.tool ? '' : b.tool"
    >
      {{ b.word }}
    </button>
    <button v-if="strokes.length" class="plain" type="button" @click="clear">Take all out</button>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  padding: 4px 0;
}
</style>
