<script setup lang="ts">
/** What would be undone, and done again. */
import { useScene } from "../stores/scene";

const scene = useScene();
</script>

<template>
  <div class="undo">
    <button
      class="plain"
      type="button"
      :disabled="!scene.revision?.undo"
      :title="scene.revision?.undo ? `undo: ${scene.revision.undo}` : ''"
      @click="scene.step('undo')"
    >
      {{ scene.revision?.undo ? `undo: ${scene.revision.undo}` : "undo" }}
    </button>
    <button
      class="plain"
      type="button"
      :disabled="!scene.revision?.redo"
      :title="scene.revision?.redo ? `redo: ${scene.revision.redo}` : ''"
      @click="scene.step('redo')"
    >
      {{ scene.revision?.redo ? `redo: ${scene.revision.redo}` : "redo" }}
    </button>
  </div>
</template>

<style scoped>
.undo {
  display: flex;
  justify-content: flex-end;
  min-width: 0;
}
.undo button {
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
