<script setup lang="ts">
/** What is found in the frame: a box around it, and marks that set it right. */
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import { useScene } from "../stores/scene";
import ToolRow from "../ui/ToolRow.vue";

const props = defineProps<{ line: IngredientLine }>();
const scene = useScene();
const params = computed(() => props.line.params as { marks: unknown[]; box?: unknown });
const thing = computed(() => props.line.kind);
const tools = computed<{ tool: string; word: string; hint: string }[]>(() => [
  ...(props.line.kind === "subject"
    ? [{ tool: "box", word: "Draw a box", hint: "A rough one; all of the thing must be in it" }]
    : []),
  { tool: "mark", word: `Mark as ${thing.value}`, hint: "Paint over what belongs to it" },
  { tool: "unmark", word: `Mark as not ${thing.value}`, hint: "Paint over what was taken wrongly" },
]);
function unbox(): void {
  params.value.box = null;
  void scene.commit("Remove box");
}
function clear(): void {
  params.value.marks.splice(0);
  void scene.commit("Remove marks");
}
</script>

<template>
  <ToolRow label="Set it right" :tools="tools">
    <button v-if="params.box" class="plain" type="button" @click="unbox">Remove box</button>
    <button v-if="params.marks.length" class="plain" type="button" @click="clear">
      Remove {{ params.marks.length === 1 ? "mark" : `${params.marks.length} marks` }}
    </button>
  </ToolRow>
</template>
