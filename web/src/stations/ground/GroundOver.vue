<script setup lang="ts">
/** Over the picture at Ground: plumb lines, the frame that Trim keeps, two places at 100 %. */
import { computed } from "vue";

import { usePlumb } from "../../composables/plumb";
import LineHandles from "../../picture/LineHandles.vue";
import LoupePair from "../../picture/LoupePair.vue";
import TrimHandles from "../../picture/TrimHandles.vue";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import type { Over } from "../station";

defineProps<Over>();
const scene = useScene();
const view = useView();
const { lines, solve } = usePlumb();
const judging = computed(() => ["noise", "crispness"].includes(scene.openMove ?? ""));
</script>

<template>
  <svg v-if="scene.openMove === 'plumb' && !check" class="handles">
    <LineHandles :lines="lines()" :frame="frame" @moved="solve('Move plumb line')" />
  </svg>
  <svg v-if="scene.openMove === 'trim' && !check && scene.map?.kept?.length && plain" class="handles">
    <TrimHandles v-if="!view.tool" :frame="frame" />
  </svg>
  <LoupePair v-if="judging && view.zoom === 0" :frame="frame" :stage="size" />
</template>
