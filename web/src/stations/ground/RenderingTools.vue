<script setup lang="ts">
/** The named settings of Rendering, as pictures of this frame. */
import { computed } from "vue";

import type { Kind } from "../../api/client";
import { useScene } from "../../stores/scene";
import PreviewPicture from "../../scene/PreviewPicture.vue";

const props = defineProps<{ kind: Kind }>();
const scene = useScene();
const words = computed(() => props.kind.fields.find((f) => f.name === "setting")?.words ?? {});
const now = computed(() => scene.ground("rendering").params.setting);
const ALONE = { toe: null, shoulder: null, hue_keeping: null };

function choose(setting: string): void {
  void scene.setGround("rendering", { setting, ...ALONE }, `Rendering ${words.value[setting]}`);
}
</script>

<template>
  <div class="settings" role="radiogroup" aria-label="Rendering">
    <button
      v-for="(word, setting) in words"
      :key="setting"
      type="button"
      role="radio"
      class="choice"
      :class="{ on: now === setting }"
      :aria-checked="now === setting"
      @click="choose(setting)"
    >
      <PreviewPicture :name="word" kind="rendering" :values="{ setting, ...ALONE }" :width="84" />
      {{ word }}
    </button>
  </div>
</template>

<style scoped>
.settings {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 4px;
  padding: 4px 0;
}
</style>
