<script setup lang="ts">
/** Habits to use again, each of which can be removed, and the removal undone. */
import { ElButton, ElPopover } from "element-plus";
import { ref } from "vue";

import type { Schemas } from "../../api/client";
import { useHabits } from "../../stores/habits";
import GlyphMark from "../../ui/GlyphMark.vue";

type Habit = Schemas["HabitOut"];
defineProps<{ habits: Habit[]; inline?: boolean }>();
const emit = defineEmits<{ use: [habit: Habit] }>();
const kept = useHabits();
const open = ref(false);
function use(habit: Habit): void {
  open.value = false;
  emit("use", habit);
}
</script>

<template>
  <component
    :is="inline ? 'div' : ElPopover"
    v-if="habits.length || kept.forgotten.length || $slots.more"
    v-bind="inline ? {} : { visible: open, placement: 'bottom-end', width: 260, persistent: false }"
  >
    <template v-if="!inline" #reference>
      <ElButton
        size="small"
        aria-label="Habits and more"
        data-help="Saved settings to use again"
        :aria-expanded="open"
        @click="open = !open"
        ><GlyphMark name="more"
      /></ElButton>
    </template>
    <div class="habits" @keydown.esc.stop="open = false">
      <h3 v-if="habits.length">Habits</h3>
      <div v-for="h in habits" :key="h.id" class="one">
        <button class="bare use" type="button" :aria-label="`Use habit ${h.name}`" @click="use(h)">
          {{ h.name }}
        </button>
        <button class="bare" type="button" :aria-label="`Remove habit ${h.name}`" @click="kept.forget(h)">
          <GlyphMark name="remove" />
        </button>
      </div>
      <p v-if="kept.forgotten.length" role="status">
        {{ kept.forgotten[0]!.name }} removed.
        <button class="plain" type="button" @click="kept.remember">Undo</button>
      </p>
      <slot name="more" />
    </div>
  </component>
</template>

<style scoped>
h3 {
  padding: 6px 6px 2px;
  font-size: 12px;
  color: var(--ink-2);
}
.one {
  display: flex;
}
.use {
  flex: 1;
  justify-content: flex-start;
  color: var(--ink);
}
</style>
