<script setup lang="ts">
/** What can be done at Gather: frames come in, a heap is shown, an outing is begun, renamed or removed. */
import { ElButton, ElDropdownItem, ElDropdownMenu } from "element-plus";
import { ref } from "vue";

import type { Outing } from "../../composables/outing";
import { HEAPS } from "../../model/gather";
import GlyphMark from "../../ui/GlyphMark.vue";
import MenuBox from "../../ui/MenuBox.vue";

export type Act = "folder" | "camera" | "back" | "removed" | "new" | "rename" | "remove";
const props = defineProps<{
  outing: Outing | null;
  camera: boolean;
  looking: boolean;
  removed: number;
  removedOpen: boolean;
}>();
const emit = defineEmits<{ bring: [files: FileList | null]; act: [what: Act] }>();
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
  <div class="verbs-row bar" role="group" aria-label="What can be done">
    <ElButton type="primary" size="small" @click="choose"><GlyphMark name="add" />&ensp;Add frames</ElButton>
    <input
      ref="picker"
      class="hidden-label"
      type="file"
      multiple
      tabindex="-1"
      aria-label="Files to add"
      @change="picked"
    />
    <ElButton size="small" @click="emit('act', 'folder')">Add a folder</ElButton>
    <ElButton size="small" :aria-pressed="camera" @click="emit('act', 'camera')">Field camera</ElButton>
    <span class="rule" aria-hidden="true" />
    <div class="seg" role="group" aria-label="Show">
      <button :class="{ on: heap === null }" type="button" :aria-pressed="heap === null" @click="heap = null">
        All {{ outing?.count ?? "" }}
      </button>
      <button
        v-for="h in HEAPS"
        :key="h.key"
        :class="{ on: heap === h.sorting }"
        type="button"
        :aria-pressed="heap === h.sorting"
        @click="heap = h.sorting"
      >
        {{ h.label }} {{ count(h.sorting) }}
      </button>
    </div>
    <div class="right">
      <ElButton v-if="looking" size="small" @click="emit('act', 'back')"
        ><GlyphMark name="left" />&ensp;All frames</ElButton
      >
      <ElButton v-else size="small" :aria-pressed="overview" @click="overview = !overview"
        >Small pictures</ElButton
      >
      <ElButton v-if="removed" size="small" :aria-expanded="removedOpen" @click="emit('act', 'removed')"
        >Recently removed ({{ removed }})</ElButton
      >
      <MenuBox @command="(what: Act) => emit('act', what)">
        <ElButton size="small" aria-label="Outing menu">Outing&ensp;<GlyphMark name="down" /></ElButton>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem command="new">New outing</ElDropdownItem>
            <template v-if="outing">
              <ElDropdownItem command="rename">Rename outing</ElDropdownItem>
              <ElDropdownItem command="remove">Remove outing</ElDropdownItem>
            </template>
          </ElDropdownMenu>
        </template>
      </MenuBox>
    </div>
  </div>
</template>

<style scoped>
.bar {
  padding: 0 16px;
  flex: none;
  flex-wrap: wrap;
}
.right {
  display: flex;
  align-items: center;
  gap: 6px;
  margin-left: auto;
}
</style>
