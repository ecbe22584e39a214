<script setup lang="ts">
/** Lines to draw, to find, to take away; how far the worst is still off. */
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { usePlumb } from "../../composables/plumb";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";

type Line = Schemas["DrawnLine"];
const scene = useScene();
const view = useView();
const { lines: drawn, solve } = usePlumb();
const lines = computed(drawn);
const off = computed(() => scene.state?.plumb_off ?? null);

function draw(tool: "upright" | "level" | "turn"): void {
  view.tool = view.tool === tool ? "" : tool;
}
async function find(): Promise<void> {
  const found = await scene.find<Line[]>("lines");
  if (!found) return;
  scene.ground("plumb").params.lines = found;
  await solve("Plumb by found lines");
}
function remove(n: number): void {
  lines.value.splice(n, 1);
  void solve("Remove plumb line");
}
</script>

<template>
  <div class="tools">
    <button
      class="plain"
      :class="{ on: view.tool === 'upright' }"
      type="button"
      :aria-pressed="view.tool === 'upright'"
      @click="draw('upright')"
    >
      Draw a vertical
    </button>
    <button
      class="plain"
      :class="{ on: view.tool === 'level' }"
      type="button"
      :aria-pressed="view.tool === 'level'"
      @click="draw('level')"
    >
      Draw a horizontal
    </button>
    <button class="plain" type="button" :disabled="scene.finding" @click="find">Find lines</button>
    <button
      class="plain"
      :class="{ on: view.tool === 'turn' }"
      type="button"
      :aria-pressed="view.tool === 'turn'"
      @click="draw('turn')"
    >
      Turn by hand
    </button>
  </div>
  <p v-if="!lines.length" class="quiet">
    Draw along two things that should be upright, or level; the camera is turned at once.
  </p>
  <ul v-else>
    <li v-for="(l, n) in lines" :key="n">
      {{ l.what }} {{ n + 1 }}
      <button class="plain" type="button" :aria-label="`Remove ${l.what} line ${n + 1}`" @click="remove(n)">
        remove
      </button>
    </li>
  </ul>
  <p v-if="off !== null" class="quiet">The worst line is {{ off.toFixed(2) }}° off.</p>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
ul {
  list-style: none;
  margin: 2px 0;
  padding: 0;
  columns: 2;
}
</style>
