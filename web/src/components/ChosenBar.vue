<script setup lang="ts">
/** What can be done with the chosen frames. */
import { kindName } from "../model/gather";

export type Together = "sweep" | "bracket" | "twin" | "none";
defineProps<{ count: number }>();
defineEmits<{
  beside: [];
  join: [kind: "sweep" | "bracket"];
  together: [kind: Together];
  remove: [];
  release: [];
}>();
const KINDS: Together[] = ["sweep", "bracket", "twin"];
</script>

<template>
  <div class="bar" role="group" aria-label="Chosen frames">
    <b>{{ count === 1 ? "1 frame" : `${count} frames` }} chosen</b>
    <button class="plain" type="button" :disabled="count < 2" @click="$emit('beside')">Side by side</button>
    <button class="plain" type="button" :disabled="count < 2" @click="$emit('join', 'sweep')">
      Join to a sweep
    </button>
    <button class="plain" type="button" :disabled="count < 2" @click="$emit('join', 'bracket')">
      to a bracket
    </button>
    <span class="quiet">They belong together as</span>
    <button
      v-for="kind in KINDS"
      :key="kind"
      class="plain"
      type="button"
      :disabled="count < 2"
      @click="$emit('together', kind)"
    >
      {{ kindName(kind) }}
    </button>
    <button class="plain" type="button" @click="$emit('together', 'none')">They stand alone</button>
    <button class="plain" type="button" @click="$emit('remove')">Remove</button>
    <button class="plain" type="button" @click="$emit('release')">Let go</button>
  </div>
</template>

<style scoped>
.bar {
  background: var(--accent-soft);
}
.plain:disabled {
  color: var(--accent-ink);
}
</style>
