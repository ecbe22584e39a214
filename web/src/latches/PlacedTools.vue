<script setup lang="ts">
/** Where it lies: what a ramp, a pool, an outline or kin offers beside its handles. */
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import type { Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import ToolRow from "../ui/ToolRow.vue";

const props = defineProps<{ line: IngredientLine }>();
const scene = useScene();
const view = useView();
const plane = computed(() => scene.plane!);
const params = computed(() => props.line.params as Partial<Record<string, Spot>>);
/** What is drawn point by point. */
const drawn = computed<unknown[]>(() => {
  const { line } = props;
  return line.kind === "outline" ? line.params.points : line.kind === "kin" ? line.params.places : [];
});
const TOOLS: Record<string, { tool: string; word: string }[]> = {
  kin: [{ tool: "kin", word: "Point at it" }],
  outline: [{ tool: "corner", word: "Add points" }],
};

function source(x: number, y: number): Spot {
  return plane.value.toSource({ x, y });
}
function level(): void {
  const [none, full] = [params.value.none!, params.value.full!].map((p) => plane.value.toPicture(p));
  const x = (none!.x + full!.x) / 2;
  const apart = Math.abs(none!.y - full!.y) > 0.02;
  Object.assign(params.value, {
    none: source(x, none!.y),
    full: source(x, apart ? full!.y : full!.y - 0.1),
  });
  void scene.commit("Level ramp");
}
function broad(): void {
  if (props.line.kind === "ramp") {
    const [none, full] = [params.value.none!, params.value.full!].map((p) => plane.value.toPicture(p));
    const upright = Math.abs(full!.y - none!.y) >= Math.abs(full!.x - none!.x);
    const down = upright ? full!.y > none!.y : full!.x > none!.x;
    const at = (end: number) => (upright ? source(0.5, end) : source(end, 0.5));
    Object.assign(params.value, { none: at(down ? 0 : 1), full: at(down ? 1 : 0) });
  } else {
    const { width, height } = plane.value;
    Object.assign(params.value, { centre: source(0.5, 0.5), edge: source(1, 0.5), across: height / width });
  }
  void scene.commit("Span the frame");
}
function wedge(): void {
  const points = [
    [0.5, 0.1],
    [0.75, 0.9],
    [0.45, 0.9],
  ].map(([x, y]) => ({ ...source(x!, y!), sharp: true }));
  Object.assign(params.value, { points, fade: 0.8, soft: 0.04 });
  view.tool = "";
  void scene.commit("Draw wedge");
}
function clear(): void {
  drawn.value.splice(0);
  void scene.commit("Remove all points");
}
</script>

<template>
  <ToolRow label="Where it lies" :tools="TOOLS[line.kind] ?? []">
    <button v-if="line.kind === 'ramp'" class="plain" type="button" @click="level">Level</button>
    <button v-if="!TOOLS[line.kind]" class="plain" type="button" @click="broad">Span the frame</button>
    <button v-if="line.kind === 'outline'" class="plain" type="button" @click="wedge">Wedge</button>
    <button v-if="drawn.length" class="plain" type="button" @click="clear">Remove all</button>
  </ToolRow>
</template>
