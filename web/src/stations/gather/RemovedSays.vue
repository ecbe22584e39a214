<script setup lang="ts">
/** What was just removed or renamed, and the way back; and all that can still be taken back. */
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import type { Removed } from "../../composables/removal";

const props = defineProps<{
  last: Removed[];
  held: Removed[];
  open: boolean;
  renamed?: Schemas["Named"] | null;
}>();
const emit = defineEmits<{ back: [things: Removed[]]; nameBack: []; away: [] }>();
const WORDS = {
  outing: "Outing",
  frame: "Frame",
  scene: "Scene",
  job: "Export",
  habit: "Habit",
  keep: "Keep",
};
const says = computed(() => {
  const [first] = props.last;
  if (!first) return "";
  const what = WORDS[first.what];
  return props.last.length === 1
    ? `${what} ${first.name} removed.`
    : `${props.last.length} ${what.toLowerCase()}s removed.`;
});
/** Scenes that are made of what was removed. */
const used = computed(() => {
  const scenes = [...new Set(props.last.flatMap((r) => r.used_by ?? []))];
  if (!scenes.length) return "";
  return `Still used by ${scenes.join(", ")}, which ${scenes.length > 1 ? "go" : "goes"} on working.`;
});
const day = (until: string) =>
  new Date(until).toLocaleDateString(undefined, { day: "numeric", month: "long" });
</script>

<template>
  <div v-if="renamed || last.length || (open && held.length)" class="bar removed" role="status">
    <p v-if="renamed">
      {{ WORDS[renamed.what] }} {{ renamed.before }} is now called {{ renamed.name }}.
      <button class="plain strong" type="button" @click="emit('nameBack')">Undo</button>
      <button class="plain" type="button" @click="emit('away')">Dismiss</button>
    </p>
    <p v-if="last.length">
      {{ says }} {{ used }} Kept until {{ day(last[0]!.until) }}.
      <button class="plain strong" type="button" @click="emit('back', last)">Undo</button>
      <button class="plain" type="button" @click="emit('away')">Dismiss</button>
    </p>
    <ul v-if="open">
      <li v-for="r in held" :key="r.id">
        {{ WORDS[r.what] }} <b>{{ r.name }}</b>{{ " " }}
        <span class="quiet">until {{ day(r.until) }}</span>
        <button class="plain" type="button" @click="emit('back', [r])">Restore</button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.removed {
  padding: 6px 14px;
  border-bottom: 1px solid var(--line);
}
ul {
  list-style: none;
  margin: 0;
  padding: 4px 0;
  max-height: 180px;
  overflow: auto;
}
.strong {
  font-weight: 600;
}
</style>
