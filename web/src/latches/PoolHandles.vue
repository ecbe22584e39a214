<script setup lang="ts">
/** A pool on the picture: its middle, the end of its first axis, and how wide it is across. */
import { computed } from "vue";

import { of, type IngredientLine } from "../api/client";
import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import DotHandle, { type How } from "../picture/DotHandle.vue";

const props = defineProps<{ line: IngredientLine; frame: Frame }>();
const scene = useScene();

const pool = computed(() => of(props.line, "pool").params);
const toStage = (p: Spot): Spot => onStage(props.frame, scene.plane!.toPicture(p));
const toSource = (p: Spot): Spot => scene.plane!.toSource(onPicture(props.frame, p));

const centre = computed(() => toStage(pool.value.centre));
const edge = computed(() => toStage(pool.value.edge));
const axis = computed(() => ({ x: edge.value.x - centre.value.x, y: edge.value.y - centre.value.y }));
const length = computed(() => Math.hypot(axis.value.x, axis.value.y) || 1);
const turn = computed(() => (Math.atan2(axis.value.y, axis.value.x) * 180) / Math.PI);
const side = computed(() => ({
  x: centre.value.x - axis.value.y * pool.value.across,
  y: centre.value.y + axis.value.x * pool.value.across,
}));
const PARTS = ["centre", "edge", "side"] as const;
type Part = (typeof PARTS)[number];
const SAYS: Record<Part, string> = {
  centre: "Pool: its middle",
  edge: "Pool: its end and its turn",
  side: "Pool: how wide it is across",
};
const at = (part: Part): Spot => ({ centre: centre.value, edge: edge.value, side: side.value })[part];

/** Where it lay when it was taken hold of; with Alt one is left behind, once. */
let from = { centre: { x: 0, y: 0 }, edge: { x: 0, y: 0 } };
let left = false;
function begin(): void {
  from = { centre: centre.value, edge: edge.value };
  left = false;
}
function put(part: Part, to: Spot, how: How): void {
  if (part === "centre") {
    if (how.alt && !left) leaveOne();
    const edge = { x: from.edge.x + to.x - from.centre.x, y: from.edge.y + to.y - from.centre.y };
    Object.assign(pool.value, { centre: toSource(to), edge: toSource(edge) });
  } else if (part === "edge") {
    const place = how.shift ? along(to) : to;
    if (Math.hypot(place.x - from.centre.x, place.y - from.centre.y) > 4) pool.value.edge = toSource(place);
  } else {
    const wide = Math.hypot(to.x - from.centre.x, to.y - from.centre.y) / length.value;
    pool.value.across = Math.min(8, Math.max(0.05, wide));
  }
  scene.touched();
}
function leaveOne(): void {
  left = true;
  const open = scene.openIngredient;
  scene.copyIngredient(props.line.id!);
  scene.openIngredient = open;
}
/** Shift keeps the axis level or upright. */
function along(to: Spot): Spot {
  const level = Math.abs(to.x - from.centre.x) > Math.abs(to.y - from.centre.y);
  return level ? { x: to.x, y: from.centre.y } : { x: from.centre.x, y: to.y };
}
const done = () => void scene.commit("Place pool");
</script>

<template>
  <g>
    <g :transform="`translate(${centre.x} ${centre.y}) rotate(${turn})`" class="shape">
      <ellipse :rx="length" :ry="length * pool.across" class="shade" />
      <ellipse :rx="length" :ry="length * pool.across" class="line" />
      <ellipse
        :rx="length * (1 - pool.softness)"
        :ry="length * pool.across * (1 - pool.softness)"
        class="line dashed"
      />
    </g>
    <DotHandle
      v-for="part in PARTS"
      :key="part"
      :at="at(part)"
      :label="SAYS[part]"
      @begin="begin"
      @move="(to, how) => put(part, to, how)"
      @done="done"
    />
  </g>
</template>

<style scoped>
.shape {
  pointer-events: none;
}
</style>
