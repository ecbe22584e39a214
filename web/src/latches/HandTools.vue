<script setup lang="ts">
/** Painting a latch: which brush the pointer is. */
import { computed } from "vue";

import { of, type IngredientLine } from "../api/client";
import { useScene } from "../stores/scene";
import ToolRow from "../ui/ToolRow.vue";

const props = defineProps<{ line: IngredientLine }>();
const scene = useScene();
const BRUSHES: { tool: string; word: string; hint: string }[] = [
  { tool: "paint", word: "Paint", hint: "Lay down what the latch holds" },
  { tool: "seek", word: "Paint to edges", hint: "Hold only what looks like what the brush goes over" },
  { tool: "erase", word: "Erase", hint: "Take away what was painted" },
];
const strokes = computed(() => of(props.line, "hand").params.strokes);

function clear(): void {
  strokes.value.splice(0);
  void scene.commit("Remove all strokes");
}
</script>

<template>
  <ToolRow label="Brush" :tools="BRUSHES">
    <button v-if="strokes.length" class="plain" type="button" @click="clear">Remove all</button>
  </ToolRow>
</template>
