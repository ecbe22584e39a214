<script setup lang="ts">
/** Over the picture at Light: where the open move lies, and the place something is wrong with. */
import { computed } from "vue";

import { onStage } from "../../model/plane";
import MoveHandles from "../../picture/MoveHandles.vue";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import type { Over } from "../station";

defineProps<Over>();
const scene = useScene();
const view = useView();
const open = computed(() => scene.moves.find((m) => m.id === scene.openMove));
</script>

<template>
  <svg v-if="open && !scene.latch && !check && !view.tool" class="handles">
    <MoveHandles :move="open" :frame="frame" />
  </svg>
  <svg v-if="view.wrong && !check" class="handles">
    <circle
      v-for="dark in [true, false]"
      :key="`${dark}`"
      class="wrong"
      :class="{ dark }"
      :cx="onStage(frame, view.wrong).x"
      :cy="onStage(frame, view.wrong).y"
      r="13"
    />
  </svg>
</template>

<style scoped>
.wrong {
  fill: none;
  stroke: var(--mark);
}
.wrong.dark {
  stroke: var(--mark-shade);
  stroke-width: 3;
}
</style>
