<script setup lang="ts">
/** What is known of the lens, the colour fringe read off the frame, and how far corners are stretched. */
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { useScene } from "../../stores/scene";

const scene = useScene();
const known = computed(() => {
  const s = scene.state;
  if (!s) return "";
  const parts = [];
  parts.push(s.lens ? `Lens profile: ${s.lens}.` : "No lens profile.");
  parts.push(s.tags ? "The frame brings corrections of its own." : "The frame brings none of its own.");
  return parts.join(" ");
});
const cells = computed(() => {
  const rows = scene.state?.stretched ?? [];
  return rows.flatMap((row, y) =>
    row.map((value, x) => ({
      x, y, value, shade: Math.round(215 - Math.min(Math.abs(value - 1) / 0.5, 1) * 150),
    })),
  ); // prettier-ignore
});
const most = computed(() => Math.max(...(scene.state?.stretched ?? [[1]]).flat()));

async function fringe(): Promise<void> {
  const found = await scene.find<Schemas["Fringe"]>("fringe");
  if (!found) return;
  await scene.setGround(
    "lens",
    { known: "hand", red: found.red, blue: found.blue },
    "Measure colour fringing",
  );
}
</script>

<template>
  <p class="quiet">{{ known }}</p>
  <button class="plain" type="button" :disabled="scene.finding" @click="fringe">
    Measure colour fringing
  </button>
  <figure v-if="cells.length">
    <svg
      viewBox="0 0 9 6"
      width="108"
      height="72"
      role="img"
      :aria-label="`Stretched up to ${most.toFixed(2)} times`"
    >
      <rect
        v-for="c in cells"
        :key="`${c.x}-${c.y}`"
        :x="c.x"
        :y="c.y"
        width="0.95"
        height="0.95"
        :fill="`rgb(${c.shade} ${c.shade} ${c.shade})`"
      >
        <title>{{ c.value.toFixed(2) }} ×</title>
      </rect>
    </svg>
    <figcaption class="quiet">
      Where the picture is stretched: darker is more, {{ most.toFixed(2) }} × at most.
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 4px 0;
}
</style>
