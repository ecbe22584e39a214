<script setup lang="ts">
/** The colours picked for a latch, and picking more of them. */
import { computed } from "vue";

import { of, type IngredientLine } from "../api/client";
import { inSrgb } from "../model/oklab";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import GlyphMark from "../ui/GlyphMark.vue";

const props = defineProps<{ line: IngredientLine }>();
const scene = useScene();
const view = useView();

const samples = computed(() => of(props.line, "colour").params.samples);

function drop(n: number): void {
  samples.value.splice(n, 1);
  void scene.commit("Remove colour sample");
}
function pick(tool: "sample" | "unsample"): void {
  view.tool = view.tool === tool ? "" : tool;
}
</script>

<template>
  <div class="tools">
    <button class="plain" type="button" :aria-pressed="view.tool === 'sample'" @click="pick('sample')">
      Pick a colour
    </button>
    <button class="plain" type="button" :aria-pressed="view.tool === 'unsample'" @click="pick('unsample')">
      Exclude a colour
    </button>
    <ul v-if="samples.length" aria-label="Samples">
      <li v-for="(s, n) in samples" :key="n">
        <span class="swatch" :class="{ away: !s.take }" :style="{ background: inSrgb(s.l, s.a, s.b) }" />
        <button class="plain" type="button" :aria-label="`Remove sample ${n + 1}`" @click="drop(n)">
          <GlyphMark name="remove" />
        </button>
      </li>
    </ul>
    <p v-else class="quiet">Nothing is picked yet, so nothing is held.</p>
  </div>
</template>

<style scoped>
.tools {
  padding: 4px 0;
}
ul {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  list-style: none;
  margin: 4px 0;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  border: 0;
  padding: 0;
}
.swatch {
  width: 26px;
  height: 24px;
  border: 1px solid var(--ink-2);
}
.away {
  border-style: dashed;
  clip-path: polygon(0 0, 100% 0, 100% 60%, 60% 100%, 0 100%);
}
</style>
