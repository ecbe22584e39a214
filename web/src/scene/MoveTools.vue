<script setup lang="ts">
/** The settings of an open Light move: its own editor where it has one, else what it declares. */
import { computed } from "vue";

import type { Kind, MoveLine } from "../api/client";
import type { Values } from "../model/wording";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import DrawnTable from "./DrawnTable.vue";
import ParamControls from "./ParamControls.vue";
import PourTools from "../stations/light/PourTools.vue";
import ReliefTools from "../stations/light/ReliefTools.vue";

const props = defineProps<{ move: MoveLine; kind: Kind; said: string }>();
const scene = useScene();
const view = useView();
const values = computed<Values>(() => props.move.params);
const drawn = computed(() => props.kind.fields.filter((f) => f.kind === "drawn"));
const fields = computed(() =>
  props.kind.kind === "relief" ? props.kind.fields.filter((f) => f.name === "guard") : props.kind.fields,
);
const POINTS: Record<string, { tool: string; word: string }> = {
  hue_steer: { tool: "hue", word: "Pick a colour" },
  monochrome: { tool: "hue", word: "Pick a colour" },
};
const HINTS: Record<string, string> = {
  rungs: "Drag light up or down: on the picture, or by its rung on the ladder. Sideways: how far it pulls.",
  curve: "Drag light up or down: on the picture, or by its place on the ladder.",
  edge_fall: "Its two rings and its middle can be dragged on the picture.",
  poured_light: "Drag where it starts and how far it reaches on the picture.",
  haze: "It looks for what is dark near by. Skies and snow have nothing dark: latch it to the land.",
};
/** What the line's sentence names is set by sliders. */
const sliders = computed(() => [...props.kind.sentence.matchAll(/\{(\w+)\}/g)].map((m) => m[1]!));
const point = computed(() => POINTS[props.kind.kind]);

function pick(): void {
  view.tool = view.tool === point.value!.tool ? "" : point.value!.tool;
}
</script>

<template>
  <div>
    <button
      v-if="point"
      class="plain strong"
      type="button"
      :aria-pressed="view.tool === point.tool"
      @click="pick"
    >
      {{ point.word }}
    </button>
    <DrawnTable
      v-for="f in drawn"
      :key="f.name"
      :field="f"
      :rows="values[f.name] as Values[]"
      :said="kind.label"
      :move="move.id!"
    />
    <ReliefTools v-if="kind.kind === 'relief'" :fields="kind.fields" :values="values" />
    <PourTools v-if="kind.kind === 'poured_light'" :move="move" />
    <ParamControls
      :fields="fields"
      :values="values"
      :scope="move.id"
      :sliders="sliders"
      @commit="scene.commit(said)"
    />
    <p v-if="HINTS[kind.kind]" class="quiet">{{ HINTS[kind.kind] }}</p>
  </div>
</template>

<style scoped>
.strong {
  text-decoration: underline;
}
</style>
