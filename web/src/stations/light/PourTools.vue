<script setup lang="ts">
/** Light is found by trying: small pictures of this very scene with the light poured in other ways. */
import { computed } from "vue";

import { of, type MoveLine } from "../../api/client";
import type { Values } from "../../model/wording";
import { useScene } from "../../stores/scene";
import PreviewPicture from "../../scene/PreviewPicture.vue";

const props = defineProps<{ move: MoveLine }>();
const scene = useScene();
const line = computed(() => props.move);
const now = computed(() => of(props.move, "poured_light").params);
/** Ways to pour it, each with light enough to see. */
const variants = computed(() => {
  const light = Math.abs(now.value.light) < 0.2 ? 1 : now.value.light;
  return [
    { name: "a glow", values: { where: "place", blend: "adds", soft: 1, light } },
    { name: "a beam", values: { where: "place", blend: "soaks", soft: 0.5, light } },
    { name: "glints", values: { where: "place", blend: "glints", soft: 1, light } },
    { name: "a wash", values: { where: "all", blend: "soaks", light: light / 3 } },
    { name: "from a side", values: { where: "side", blend: "soaks", light } },
    { name: "lit mist", values: { where: "side", blend: "adds", light: light / 2 } },
  ];
});
function take(values: Values, name: string): void {
  Object.assign(line.value.params!, values);
  void scene.commit(`Poured light: ${name}`);
}
</script>

<template>
  <ul aria-label="Ways to pour it">
    <li v-for="v in variants" :key="v.name">
      <button class="plain" type="button" @click="take(v.values, v.name)">
        <PreviewPicture :kind="move.id" :values="v.values" :name="v.name" :width="84" />
        {{ v.name }}
      </button>
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 4px 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 4px;
}
li {
  border: 0;
  padding: 0;
}
button {
  text-align: left;
  padding: 2px;
}
</style>
