<script setup lang="ts">
/** What can be done at Gather: bring in, show a heap, choose or begin an outing. */
import { ElButton } from "element-plus";
import { ref } from "vue";

import type { Outing } from "../composables/outing";
import { HEAPS } from "../model/gather";

const props = defineProps<{
  outing: Outing | null;
  camera: boolean;
  looking: boolean;
  removed: number;
  removedOpen: boolean;
}>();
const emit = defineEmits<{
  bring: [files: FileList | null];
  act: [what: "folder" | "camera" | "back" | "keys" | "removed" | "new" | "rename" | "remove"];
}>();
const heap = defineModel<string | null>("heap", { required: true });
const overview = defineModel<boolean>("overview", { required: true });
const picker = ref<HTMLInputElement>();
const count = (sorting: string) => (props.outing?.frames ?? []).filter((f) => f.sorting === sorting).length;
function picked(e: Event): void {
  const input = e.target as HTMLInputElement;
  emit("bring", input.files && [...input.files].length ? input.files : null);
}
/** The same file may be chosen twice. */
function choose(): void {
  picker.value!.value = "";
  picker.value!.click();
}
</script>

<template>
  <div class="bar">
    <ElButton type="primary" @click="choose">Bring in frames</ElButton>
    <input
      ref="picker"
      class="hidden-label"
      type="file"
      multiple
      tabindex="-1"
      aria-label="Files to bring in"
      @change="picked"
    />
    <button class="plain" type="button" @click="emit('act', 'folder')">Read a folder</button>
    <button
      class="plain"
      :class="{ on: camera }"
      type="button"
      :aria-pressed="camera"
      @click="emit('act', 'camera')"
    >
      Field camera
    </button>
    <div class="heaps" role="group" aria-label="Show">
      <button class="plain" :class="{ on: heap === null }" type="button" @click="heap = null">All</button>
      <button
        v-for="h in HEAPS"
        :key="h.key"
        class="plain"
        :class="{ on: heap === h.sorting }"
        type="button"
        :aria-pressed="heap === h.sorting"
        @click="heap = h.sorting"
      >
        {{ h.label }} {{ count(h.sorting) }}
      </button>
    </div>
    <div class="right">
      <button v-if="looking" class="plain" type="button" @click="emit('act', 'back')">‹ All frames</button>
      <button
        v-else
        class="plain"
        :class="{ on: overview }"
        type="button"
        :aria-pressed="overview"
        @click="overview = !overview"
      >
        Overview
      </button>
      <button class="plain" type="button" @click="emit('act', 'keys')">Keys ?</button>
      <button
        v-if="removed"
        class="plain"
        type="button"
        :aria-expanded="removedOpen"
        @click="emit('act', 'removed')"
      >
        Removed {{ removed }}
      </button>
      <button class="plain" type="button" @click="emit('act', 'new')">New outing</button>
      <template v-if="outing">
        <button class="plain" type="button" @click="emit('act', 'rename')">Rename outing</button>
        <button class="plain" type="button" @click="emit('act', 'remove')">Remove outing</button>
      </template>
    </div>
  </div>
</template>

<style scoped>
.heaps {
  display: flex;
  margin-left: 6px;
}
.right {
  display: flex;
  align-items: center;
  margin-left: auto;
}
</style>
