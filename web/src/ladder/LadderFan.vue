<script setup lang="ts">
/** The Fan on the ladder, wide to narrow: each small picture lies at the rung of which it takes half, and is
 * chosen at a glance. */
import { computed, ref, watch } from "vue";

import { client, of, type IngredientLine } from "../api/client";
import { useScene } from "../stores/scene";
import MaskPicture from "../latches/MaskPicture.vue";
import { signedStops } from "../model/wording";

const props = defineProps<{ line: IngredientLine; y: (stop: number) => number; room: number }>();
const scene = useScene();
const COUNT = 6;
const TALL = 32;
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
const params = computed(() => of(props.line, "fan").params);
const rungs = ref<number[]>([]);
watch(
  () => [props.line.id, params.value.leaning, JSON.stringify(scene.latch?.read_at)],
  async () => {
    if (!scene.opened || !scene.latch) return;
    const got = await client
      .POST("/api/scenes/{scene_id}/fan", {
        params: { path: { scene_id: scene.opened.id } },
        body: {
          document: scene.current(), latch: scene.latch.id!,
          leaning: params.value.leaning, narrow: steps.value,
        }, // prettier-ignore
      })
      .catch(() => null);
    if (got?.data) rungs.value = got.data;
  },
  { immediate: true },
);
/** Each at its rung, moved apart where they would lie on one another. */
const places = computed(() => {
  const order = rungs.value.map((stop, n) => ({ n, rung: props.y(stop), top: 0 }));
  order.sort((a, b) => a.rung - b.rung);
  let next = 0;
  for (const [k, p] of order.entries()) {
    const below = (order.length - k) * TALL;
    p.top = Math.max(next, Math.min(p.rung - TALL / 2, props.room - below));
    next = p.top + TALL;
  }
  return order;
});
function choose(narrowness: number): void {
  params.value.narrowness = narrowness;
  void scene.commit("Narrowness of Fan");
}
</script>

<template>
  <svg class="strands" aria-hidden="true">
    <path
      v-for="p in places"
      :key="p.n"
      :d="`M0 ${p.rung}C14 ${p.rung} 8 ${p.top + TALL / 2} 18 ${p.top + TALL / 2}`"
    />
  </svg>
  <ul aria-label="The Fan, wide to narrow">
    <li v-for="p in places" :key="p.n" :style="{ top: `${p.top}px` }">
      <button
        type="button"
        :class="{ on: Math.abs(params.narrowness - steps[p.n]!) < 0.05 }"
        :aria-pressed="Math.abs(params.narrowness - steps[p.n]!) < 0.05"
        :aria-label="`Narrowness ${steps[p.n]}`"
        :data-help="`Narrowness ${steps[p.n]}: half at ${signedStops(rungs[p.n]!)} stops`"
        @click="choose(steps[p.n]!)"
      >
        <MaskPicture
          :latch="scene.latch!.id!"
          :ingredient="line.id!"
          :size="36"
          :values="{ narrowness: steps[p.n]! }"
        />
      </button>
    </li>
  </ul>
</template>

<style scoped>
.strands {
  position: absolute;
  left: 90px;
  top: 0;
  width: 20px;
  height: 100%;
  overflow: visible;
  pointer-events: none;
}
path {
  fill: none;
  stroke: var(--accent);
  stroke-width: 1.5;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  position: absolute;
  left: 108px;
}
button {
  display: block;
  border: 2px solid var(--panel);
  background: none;
  padding: 0;
  min-height: 28px;
  cursor: pointer;
}
button.on {
  border-color: var(--accent);
}
</style>
