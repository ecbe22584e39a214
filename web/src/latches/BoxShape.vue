<script setup lang="ts">
/** A box drawn over the picture, by two of its corners on the stage. */
import type { Spot } from "../model/plane";

defineProps<{ a: Spot; b: Spot }>();
</script>

<template>
  <rect
    v-for="how in ['shade', 'line dashed']"
    :key="how"
    :class="how"
    :x="Math.min(a.x, b.x)"
    :y="Math.min(a.y, b.y)"
    :width="Math.abs(b.x - a.x)"
    :height="Math.abs(b.y - a.y)"
  />
</template>
