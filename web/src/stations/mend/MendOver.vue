<script setup lang="ts">
/** Over the picture at Mend: what was taken out and from where, how it was reshaped, two places at 100 %. */
import { computed } from "vue";

import LoupePair from "../../picture/LoupePair.vue";
import RepairMarks from "../../picture/RepairMarks.vue";
import ShapeMarks from "../../picture/ShapeMarks.vue";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import type { Over } from "../station";

defineProps<Over>();
const scene = useScene();
const view = useView();
// not over what is being drawn on
const judging = computed(() => scene.openMove === "refocus" && !view.tool && view.zoom === 0);
</script>

<template>
  <svg v-if="!check || check.what === 'specks'" class="handles">
    <RepairMarks :frame="frame" />
    <ShapeMarks :frame="frame" />
  </svg>
  <LoupePair v-if="judging" :frame="frame" :stage="size" />
</template>
