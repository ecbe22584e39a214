<script setup lang="ts">
/** Places pointed at, on the picture: what Kin should resemble, where Colour's samples were picked. */
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import { usePicking } from "../composables/picking";
import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import DotHandle from "../picture/DotHandle.vue";

const props = defineProps<{ line: IngredientLine; frame: Frame }>();
const scene = useScene();
const picking = usePicking(computed(() => props.frame));
interface Places {
  places?: Spot[];
  samples?: { at: Spot | null }[];
}
const params = computed(() => props.line.params as Places);
const word = computed(() => (props.line.kind === "kin" ? "Kin" : "Colour"));
const places = computed(() => params.value.places ?? (params.value.samples ?? []).map((s) => s.at));
const shown = computed(() =>
  places.value.flatMap((p, n) => (p ? [{ n, at: onStage(props.frame, scene.plane!.toPicture(p)) }] : [])),
);

function put(n: number, to: Spot): void {
  Object.assign(places.value[n]!, scene.plane!.toSource(onPicture(props.frame, to)));
  scene.touched();
}
function done(n: number): void {
  if (params.value.samples) picking.again(props.line, n);
  else void scene.commit("Move place");
}
function remove(n: number): void {
  (params.value.samples ?? params.value.places)!.splice(n, 1);
  void scene.commit(`Remove place of ${word.value}`);
}
</script>

<template>
  <g>
    <DotHandle
      v-for="{ n, at } in shown"
      :key="n"
      :at="at"
      :label="`${word}: place ${n + 1}; Delete takes it out`"
      @move="put(n, $event)"
      @done="done(n)"
      @remove="remove(n)"
    />
  </g>
</template>
