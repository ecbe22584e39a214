<script setup lang="ts">
/** The projections as small pictures of this very sweep. */
import { computed } from "vue";

import type { Kind } from "../../api/client";
import { useScene } from "../../stores/scene";
import PreviewPicture from "../../scene/PreviewPicture.vue";

const props = defineProps<{ kind: Kind }>();
const scene = useScene();
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
</template>

<style scoped>
.projections {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}
.projections button {
  flex-direction: column;
  align-items: flex-start;
  padding: 4px;
  text-align: left;
}
</style>
