<script setup lang="ts">
/** Over the picture at Join: where its frames fit the least, and how its borders are stretched. */
import ShapeMarks from "../../picture/ShapeMarks.vue";
import { useView } from "../../stores/view";
import type { Over } from "../station";
import FitMarks from "./FitMarks.vue";

defineProps<Over>();
const view = useView();
</script>

<template>
  <svg v-if="!check" class="handles">
    <FitMarks v-if="view.fits" :frame="frame" />
    <ShapeMarks :frame="frame" />
  </svg>
</template>
