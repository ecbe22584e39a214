<script setup lang="ts">
/** A slider: it answers while it is dragged and is done when it is let go; a run of arrow keys is one change; Escape takes the
 * drag back, and what the pointer still does until it is let go is ignored. A double click asks for the default. */
import { ElSlider } from "element-plus";
import { computed } from "vue";

import { useHeld } from "../composables/held";
import { useScene } from "../stores/scene";

const props = defineProps<{ value: number; low: number; high: number; step: number; label: string }>();
const emit = defineEmits<{ change: [value: number]; commit: []; reset: [] }>();
const scene = useScene();
const held = useHeld();
const at = computed(() => Math.min(props.high, Math.max(props.low, props.value)));
let takenBack = false;
let byKey = false;

function slide(value: unknown): void {
  if (!takenBack && typeof value === "number") emit("change", value);
}
function slid(): void {
  if (takenBack) takenBack = false;
  else if (byKey) held.pressed(() => emit("commit"));
  else emit("commit");
}
function key(e: KeyboardEvent): void {
  byKey = true;
  if (e.key !== "Escape" || !scene.dragging) return;
  e.stopPropagation();
  takenBack = true;
  scene.restore();
}
function down(): void {
  takenBack = byKey = false;
}
</script>

<template>
  <div
    class="slide"
    @dblclick="emit('reset')"
    @keydown.capture="key"
    @pointerdown.capture="down"
    @mousedown.capture="down"
  >
    <ElSlider
      :model-value="at"
      :min="low"
      :max="high"
      :step="step"
      :show-tooltip="false"
      :aria-label="label"
      @input="slide"
      @change="slid"
    />
  </div>
</template>

<style scoped>
.slide {
  padding: 0 9px;
  min-width: 0;
}
.slide :deep(.el-slider) {
  height: 26px;
}
</style>
