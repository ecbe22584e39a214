<script setup lang="ts">
/** The head of lines that are switched together: one switch, a name, and the lines folded away. */
import { ElSwitch } from "element-plus";

import { useGroups, type Group } from "../stores/groups";
import GlyphMark from "../ui/GlyphMark.vue";
import TypedLine from "../ui/TypedLine.vue";

defineProps<{ group: Group; lines: number }>();
const groups = useGroups();
</script>

<template>
  <li class="group">
    <ElSwitch
      :model-value="group.on"
      size="small"
      :aria-label="`${group.name} on or off`"
      @change="groups.turn(group)"
    />
    <TypedLine
      class="name"
      :value="group.name"
      maxlength="120"
      aria-label="Name of the group"
      @done="groups.rename(group, $event)"
    />
    <span class="quiet">{{ lines }} {{ lines === 1 ? "line" : "lines" }}</span>
    <button
      class="bare"
      type="button"
      :aria-expanded="!groups.folded.has(group.id)"
      :aria-label="`${groups.folded.has(group.id) ? 'Open' : 'Fold'} ${group.name}`"
      @click="groups.fold(group)"
    >
      <GlyphMark :name="groups.folded.has(group.id) ? 'right' : 'down'" />
    </button>
  </li>
</template>

<style scoped>
.group {
  display: flex;
  align-items: center;
  gap: 7px;
  border-top: 1px solid var(--line);
  padding: 3px 8px;
}
.name {
  flex: 1;
  min-width: 0;
  min-height: 26px;
  border: 0;
  border-bottom: 1px dotted var(--ink-3);
  background: none;
  font: inherit;
  font-weight: 600;
}
</style>
