<script setup lang="ts">
/** How much long work is under way, and the way to the tray. */
import { computed, onMounted } from "vue";

import { useDrawer } from "../stores/drawer";
import { useTray } from "../stores/tray";
import GlyphMark from "../ui/GlyphMark.vue";

const tray = useTray();
const drawer = useDrawer();
const says = computed(() => {
  const [first] = tray.running;
  if (!first) return "";
  const share = Math.round((tray.running.reduce((sum, j) => sum + j.done, 0) / tray.running.length) * 100);
  return `${tray.running.length} · ${share} %`;
});
onMounted(() => void tray.load());
</script>

<template>
  <button
    class="plain"
    type="button"
    :aria-label="says ? `Tray ${says}` : 'Tray'"
    :aria-pressed="drawer.open === 'tray'"
    @click="drawer.toggle('tray')"
  >
    <GlyphMark name="tray" /><span :class="{ word: !says }">{{ says || "Tray" }}</span>
  </button>
</template>

<style scoped>
@media (max-width: 899px) {
  .word {
    display: none;
  }
}
</style>
