<script setup lang="ts">
/** What would be undone, and done again. */
import { useScene } from "../stores/scene";
import GlyphMark from "../ui/GlyphMark.vue";

const scene = useScene();
</script>

<template>
  <div class="undo">
    <button
      class="bare"
      type="button"
      :disabled="!scene.revision?.undo"
      :aria-label="scene.revision?.undo ? `undo: ${scene.revision.undo}` : 'undo'"
      @click="scene.step('undo')"
    >
      <GlyphMark name="undo" /> <span class="what">{{ scene.revision?.undo }}</span>
    </button>
    <button
      class="bare"
      type="button"
      :disabled="!scene.revision?.redo"
      :aria-label="scene.revision?.redo ? `redo: ${scene.revision.redo}` : 'redo'"
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
