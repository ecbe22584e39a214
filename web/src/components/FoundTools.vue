<script setup lang="ts">
/** What is found in the frame: a box around it, and marks that set it right. */
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import { useScene } from "../stores/scene";
import ToolRow from "./ToolRow.vue";

const props = defineProps<{ line: IngredientLine }>();
const scene = useScene();
const params = computed(() => props.line.params as unknown as { marks: unknown[]; box?: unknown });
const tools = computed<{ tool: string; word: string; hint: string }[]>(() => [
  ...(props.line.kind === "subject"
    ? [{ tool: "box", word: "Draw a box", hint: "A rough one; all of the thing must be in it" }]
    : []),
  { tool: "mark", word: "Mark some of it", hint: "Paint over what belongs to it" },
  { tool: "unmark", word: "Mark what is not", hint: "Paint over what was taken wrongly" },
]);
function unbox(): void {
  params.value.box = null;
  void scene.commit("Subject left to the eye");
}
function clear(): void {
  params.value.marks.splice(0);
  void scene.commit("Marks taken out");
}
</script>

<template>
  <ToolRow label="Set it right" :tools="tools">
    <button v-if="params.box" class="plain" type="button" @click="unbox">No box</button>
    <button v-if="params.marks.length" class="plain" type="button" @click="clear">
      Take {{ params.marks.length === 1 ? "the mark" : `${params.marks.length} marks` }} out
    </button>
  </ToolRow>
</template>
