<script setup lang="ts">
/** What is drawn over the picture for the opened latch: the handles of the open ingredient, or of all. */
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import type { Frame } from "../model/plane";
import { useScene } from "../stores/scene";
import BoxHandles from "./BoxHandles.vue";
import OutlineHandles from "./OutlineHandles.vue";
import PlaceHandles from "./PlaceHandles.vue";
import PoolHandles from "./PoolHandles.vue";
import RampHandles from "./RampHandles.vue";

defineProps<{ frame: Frame }>();
const scene = useScene();
const HANDLES = {
  ramp: RampHandles,
  pool: PoolHandles,
  outline: OutlineHandles,
  subject: BoxHandles,
  kin: PlaceHandles,
  colour: PlaceHandles,
};
const handled = computed(() =>
  (scene.latch?.ingredients ?? [])
    .filter((i) => i.on !== false && (!scene.openIngredient || scene.openIngredient === i.id))
    .filter((i): i is IngredientLine & { kind: keyof typeof HANDLES } => i.kind in HANDLES),
);
</script>

<template>
  <g>
    <component :is="HANDLES[i.kind]" v-for="i in handled" :key="i.id" :line="i" :frame="frame" />
  </g>
</template>
