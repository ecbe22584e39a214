<script setup lang="ts">
/** How what was done stands with the server; and what is to be decided before it can be saved. */
import { computed } from "vue";

import { useScene } from "../stores/scene";

const scene = useScene();
const says = computed(() => {
  if (scene.saving === "saved" && scene.stepping) return "saving …";
  if (scene.saving === "saved") return scene.dirty ? "not saved yet" : "saved ✓";
  return {
    saving: "saving …",
    waiting: "not saved: no connection, retrying",
    ended: "not saved: signed out",
    conflict: "not saved: choose a version",
    stopped: "not saved",
  }[scene.saving];
});
</script>

<template>
  <span
    class="says"
    :class="{ open: !['saved', 'saving'].includes(scene.saving) }"
    role="status"
    data-testid="saved"
    >{{ says }}</span
  >
</template>

<style scoped>
.says {
  color: var(--ink-2);
  /* where it is long it makes way for the buttons beside it; what it asks stands on the picture */
  min-width: 4em;
  flex: 0 1 auto;
  overflow: hidden;
  text-overflow: ellipsis;
}
.open {
  color: var(--ink);
  font-weight: 600;
}
</style>
