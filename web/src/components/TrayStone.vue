<script setup lang="ts">
/** How much long work is under way, and the way to the tray. */
import { computed, onMounted } from "vue";

import { useTray } from "../stores/tray";

const tray = useTray();
const says = computed(() => {
  const [first] = tray.running;
  if (!first) return "Tray";
  const share = Math.round((tray.running.reduce((sum, j) => sum + j.done, 0) / tray.running.length) * 100);
  return `Tray ${tray.running.length} · ${share} %`;
});
onMounted(() => void tray.load());
</script>

<template>
  <button
    class="plain"
    type="button"
    :aria-pressed="tray.open"
    title="Long work and its files"
    @click="tray.open = !tray.open"
  >
    {{ says }}
  </button>
</template>
