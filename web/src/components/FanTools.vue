<script setup lang="ts">
/** A row of the Fan's pictures, wide to narrow, with the rung at which each takes half: chosen at a glance. */
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import { useScene } from "../stores/scene";
import MaskPicture from "./MaskPicture.vue";

const props = defineProps<{ line: IngredientLine }>();
const scene = useScene();
const COUNT = 6;
/** From the widest to the narrowest there is, each narrower by the same factor. */
const steps = computed(() => {
  const field = scene.ingredientKinds
    .find((k) => k.kind === "fan")!
    .fields.find((f) => f.name === "narrowness")!;
  const [low, high] = [field.low!, field.high!];
  return Array.from({ length: COUNT }, (_, n) =>
    Number((low * (high / low) ** (n / (COUNT - 1))).toFixed(field.decimals ?? 1)),
  );
});
const params = computed(() => props.line.params as unknown as { leaning: string; narrowness: number });
function choose(narrowness: number): void {
  params.value.narrowness = narrowness;
  void scene.commit("Narrowness of Fan");
}
</script>

<template>
  <ul aria-label="The Fan, wide to narrow">
    <li v-for="n in steps" :key="n">
      <button
        type="button"
        :class="{ on: Math.abs(params.narrowness - n) < 0.05 }"
        :aria-pressed="Math.abs(params.narrowness - n) < 0.05"
        :aria-label="`Narrowness ${n}`"
        @click="choose(n)"
      >
        <MaskPicture :latch="scene.latch!.id" :ingredient="line.id!" :size="40" :values="{ narrowness: n }" />
        <span class="numeral quiet">{{ n }}</span>
      </button>
    </li>
  </ul>
</template>

<style scoped>
ul {
  display: flex;
  justify-content: space-between;
  list-style: none;
  margin: 4px 0;
  padding: 0;
}
button {
  min-height: 46px;
  border: 2px solid transparent;
  background: none;
  padding: 1px;
  cursor: pointer;
  text-align: center;
}
button.on {
  border-color: var(--accent);
}
span {
  display: block;
}
</style>
