<script setup lang="ts">
/** The rough box around a subject, and the one being drawn. */
import { computed } from "vue";

import { of, type IngredientLine } from "../api/client";
import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import BoxShape from "./BoxShape.vue";
import DotHandle from "../picture/DotHandle.vue";

const props = defineProps<{ line: IngredientLine; frame: Frame }>();
const scene = useScene();
const box = computed(() => of(props.line, "subject").params.box);
const ends = computed(() => {
  if (!box.value) return null;
  return [box.value.one, box.value.other].map((p) => onStage(props.frame, scene.plane!.toPicture(p))) as [
    Spot,
    Spot,
  ];
});
function put(which: "one" | "other", to: Spot): void {
  if (!box.value) return;
  box.value[which] = scene.plane!.toSource(onPicture(props.frame, to));
  scene.touched();
}
</script>

<template>
  <g v-if="ends">
    <BoxShape :a="ends[0]" :b="ends[1]" />
    <DotHandle
      shape="square"
      :at="ends[0]"
      label="Box: one corner"
      @move="put('one', $event)"
      @done="scene.commit('Change box')"
    />
    <DotHandle
      shape="square"
      :at="ends[1]"
      label="Box: the other corner"
      @move="put('other', $event)"
      @done="scene.commit('Change box')"
    />
  </g>
</template>
