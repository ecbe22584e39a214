<script setup lang="ts">
/** What would be undone, and done again. */
import { computed } from "vue";

import { useScene } from "../stores/scene";
import GlyphMark from "../ui/GlyphMark.vue";

const scene = useScene();
const steps = computed(() => (scene.coming ? null : scene.revision));
</script>

<template>
  <div class="undo">
    <button
      class="bare"
      type="button"
      :disabled="!steps?.undo"
      :aria-label="steps?.undo ? `undo: ${steps.undo}` : 'undo'"
      @click="scene.step('undo')"
    >
      <GlyphMark name="undo" /> <span class="what">{{ steps?.undo }}</span>
    </button>
    <button
      class="bare"
      type="button"
      :disabled="!steps?.redo"
      :aria-label="steps?.redo ? `redo: ${steps.redo}` : 'redo'"
      @click="scene.step('redo')"
    >
      <GlyphMark name="redo" />
    </button>
  </div>
</template>

<style scoped>
.undo {
  display: flex;
  justify-content: flex-end;
  min-width: 0;
}
.undo button:first-child {
  min-width: 0;
  flex: 0 1 auto;
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
