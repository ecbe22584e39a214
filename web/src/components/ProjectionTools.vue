<script setup lang="ts">
/** The projections as small pictures of this very sweep. */
import { computed } from "vue";

import type { Kind } from "../api/client";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import PreviewPicture from "./PreviewPicture.vue";

const props = defineProps<{ kind: Kind }>();
const scene = useScene();
const view = useView();
const words = computed(() => props.kind.fields.find((f) => f.name === "kind")!.words ?? {});
const now = computed(() => scene.ground("projection").params.kind as string);
const choose = (name: string) =>
  void scene.setGround("projection", { kind: name }, `${words.value[name]} projection`);
</script>

<template>
  <div class="projections" role="radiogroup" aria-label="Projection">
    <button
      v-for="(word, name) in words"
      :key="name"
      class="plain"
      :class="{ on: name === now }"
      type="button"
      role="radio"
      :aria-checked="name === now"
      @click="choose(`${name}`)"
    >
      <PreviewPicture :name="word" kind="projection" :values="{ kind: name }" :width="126" />
      {{ word }}
    </button>
  </div>
  <div class="tools">
    <button
      class="plain"
      :class="{ on: view.tool === 'turn' }"
      type="button"
      :aria-pressed="view.tool === 'turn'"
      @click="view.tool = view.tool === 'turn' ? '' : 'turn'"
    >
      Turn by dragging the picture
    </button>
  </div>
</template>

<style scoped>
.projections {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}
.projections button {
  text-align: left;
}
.tools {
  padding: 4px 0;
}
</style>
