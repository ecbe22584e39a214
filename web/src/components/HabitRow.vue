<script setup lang="ts">
/** Habits to use again, each of which can be forgotten. */
import type { Schemas } from "../api/client";
import { useHabits } from "../stores/habits";

defineProps<{ habits: Schemas["HabitOut"][] }>();
const emit = defineEmits<{ use: [habit: Schemas["HabitOut"]] }>();
const kept = useHabits();
</script>

<template>
  <p v-if="kept.forgotten.length" role="status">
    {{ kept.forgotten[0]!.name }} is forgotten.
    <button class="plain" type="button" @click="kept.remember">Take back</button>
  </p>
  <div v-if="habits.length" class="row">
    <span class="quiet">By habit</span>
    <span v-for="h in habits" :key="h.id">
      <button class="plain" type="button" @click="emit('use', h)">+ {{ h.name }}</button>
      <button
        class="plain forget"
        type="button"
        :aria-label="`Forget the habit ${h.name}`"
        @click="kept.forget(h)"
      >
        ×
      </button>
    </span>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px;
}
.forget {
  color: var(--ink-2);
  min-width: 24px;
  min-height: 24px;
  padding: 0;
}
</style>
