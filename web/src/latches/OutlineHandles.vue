<script setup lang="ts">
/** An outline on the picture: its line and its points. */
import { computed } from "vue";

import { of, type IngredientLine } from "../api/client";
import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { outlinePath } from "../model/outline";
import { useScene } from "../stores/scene";
import DotHandle from "../picture/DotHandle.vue";

const props = defineProps<{ line: IngredientLine; frame: Frame }>();
const scene = useScene();
const points = computed(() => of(props.line, "outline").params.points);
const shown = computed(() =>
  points.value.map((p) => ({ ...onStage(props.frame, scene.plane!.toPicture(p)), sharp: p.sharp })),
);
const path = computed(() => outlinePath(shown.value));

function put(n: number, to: Spot): void {
  Object.assign(points.value[n]!, scene.plane!.toSource(onPicture(props.frame, to)));
  scene.touched();
}
function remove(n: number): void {
  points.value.splice(n, 1);
  void scene.commit("Remove point");
}
function turn(n: number): void {
  points.value[n]!.sharp = !points.value[n]!.sharp;
  void scene.commit(points.value[n]!.sharp ? "Sharpen corner" : "Round corner");
}
</script>

<template>
  <g>
    <path :d="path" class="shade" />
    <path :d="path" class="line" />
    <DotHandle
      v-for="(p, n) in shown"
      :key="n"
      :at="p"
      :shape="p.sharp ? 'square' : 'round'"
      :label="`Outline: point ${n + 1}, ${p.sharp ? 'sharp' : 'curved'}; Enter turns it, Delete takes it out`"
      @move="put(n, $event)"
      @done="scene.commit('Move outline')"
      @remove="remove(n)"
      @turn="turn(n)"
    />
  </g>
</template>
