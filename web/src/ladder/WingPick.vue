<script setup lang="ts">
/** The name of the latch a wing shows; clicking it chooses another. */
import { ElDropdownItem, ElDropdownMenu } from "element-plus";

import { useScene } from "../stores/scene";
import MenuBox from "../ui/MenuBox.vue";

defineProps<{ latch: string; label: string }>();
const emit = defineEmits<{ choose: [latch: string] }>();
const scene = useScene();
</script>

<template>
  <MenuBox @command="(id: string) => emit('choose', id)">
    <button class="name" type="button" :aria-label="`${label}: ${scene.nameOf(latch)}`">
      {{ scene.nameOf(latch) }}
    </button>
    <template #dropdown>
      <ElDropdownMenu>
        <ElDropdownItem v-for="l in scene.latches" :key="l.id" :command="l.id">{{ l.name }}</ElDropdownItem>
      </ElDropdownMenu>
    </template>
  </MenuBox>
</template>

<style scoped>
.name {
  max-width: 60px;
  min-height: 24px;
  padding: 0;
  border: 0;
  border-bottom: 1px dotted var(--ink-3);
  background: none;
  font-size: 13px;
  color: var(--ink);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: pointer;
}
</style>
