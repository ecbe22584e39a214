<script setup lang="ts">
/** The screen's own density: a card is held against it, and the drawn one made as wide. */
import { ElButton, ElSlider } from "element-plus";
import { ref } from "vue";

import { CARD, useProof } from "../../stores/proof";

const emit = defineEmits<{ done: [] }>();
const proof = useProof();
const INCH = 25.4;
/** CSS px of a card's width. */
const wide = ref(Math.round((CARD / INCH) * (proof.screenPpi || 96)));
function take(): void {
  proof.screenPpi = (wide.value / CARD) * INCH;
  emit("done");
}
</script>

<template>
  <section class="card-sheet" aria-label="How large is this screen?">
    <p>
      Hold a bank card against the screen, and move the slider until the drawn card is as wide. Prints are
      then shown at their true size.
    </p>
    <div class="card" :style="{ width: `${wide}px`, height: `${(wide * 53.98) / CARD}px` }" />
    <ElSlider v-model="wide" :min="160" :max="760" aria-label="Width of the card" :show-tooltip="false" />
    <p class="acts">
      <ElButton size="small" @click="emit('done')">Cancel</ElButton>
      <ElButton size="small" type="primary" @click="take">Apply</ElButton>
    </p>
  </section>
</template>

<style scoped>
.card-sheet {
  position: absolute;
  z-index: 7;
  top: 60px;
  left: 50%;
  width: max-content;
  max-width: 94%;
  padding: 12px 16px;
  transform: translateX(-50%);
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--panel);
}
.card {
  margin: 10px auto;
  border: 1px solid var(--ink-2);
  border-radius: 8px;
  background: var(--leaf);
}
.acts {
  display: flex;
  justify-content: flex-end;
}
</style>
