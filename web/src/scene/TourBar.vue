<script setup lang="ts">
/** Led through a worked scene: what was done here, why, and the picture without it. */
import { ElButton } from "element-plus";
import { nextTick, watch } from "vue";
import { useRouter } from "vue-router";

import { wayTo } from "../stations";
import { useScene } from "../stores/scene";
import { useTour } from "../stores/tour";
import { useView } from "../stores/view";
import GlyphMark from "../ui/GlyphMark.vue";

const tour = useTour();
const scene = useScene();
const view = useView();
const router = useRouter();
/** To the station of the step, and what it is there. */
watch(
  () => tour.step?.id,
  async () => {
    const { step } = tour;
    if (!step || !scene.opened) return;
    if (view.station !== step.station) {
      await router.push(wayTo(step.station, scene.opened.id));
      await nextTick();
    }
    if (tour.step?.id === step.id) tour.show();
  },
);
</script>

<template>
  <section v-if="tour.step" class="tour" aria-label="How it was done" aria-live="polite">
    <p>
      <span class="quiet numeral">{{ tour.at + 1 }} of {{ tour.steps.length }}</span>
      <b>{{ tour.step.line }}</b>
    </p>
    <p>{{ tour.step.why }}</p>
    <div class="acts">
      <ElButton size="small" :aria-pressed="tour.without" :disabled="!tour.step.apart" @click="tour.toggle()"
        >Without it</ElButton
      >
      <ElButton size="small" :disabled="tour.at === 0" @click="tour.go(tour.at - 1)">Back</ElButton>
      <ElButton
        v-if="tour.at < tour.steps.length - 1"
        size="small"
        type="primary"
        @click="tour.go(tour.at + 1)"
        >Next</ElButton
      >
      <ElButton v-else size="small" type="primary" @click="tour.end()">Done</ElButton>
      <button class="bare" type="button" aria-label="Close" @click="tour.end()">
        <GlyphMark name="remove" />
      </button>
    </div>
  </section>
</template>

<style scoped>
.tour {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 16px;
  align-items: center;
  flex: none;
  min-height: 64px;
  padding: 8px 12px;
  border-top: 1px solid var(--line);
  background: var(--leaf);
}
.tour p {
  grid-column: 1;
}
.quiet {
  margin-right: 8px;
}
.acts {
  grid-area: 1 / 2 / 3 / 3;
  display: flex;
  gap: 6px;
}
</style>
