<script setup lang="ts">
/** A pool on the picture: its middle, the end of its first axis, and how wide it is across. */
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import { useDrag } from "../composables/drag";
import { useHeld } from "../composables/held";
import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { useScene } from "../stores/scene";

const props = defineProps<{ line: IngredientLine; frame: Frame }>();
const scene = useScene();

interface Pool {
  centre: Spot;
  edge: Spot;
  across: number;
  softness: number;
}
const pool = computed(() => props.line.params as unknown as Pool);
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

function put(part: Part, to: Spot, from: { centre: Spot; edge: Spot }): void {
  if (part === "centre") {
    const dx = to.x - from.centre.x;
    const dy = to.y - from.centre.y;
    Object.assign(pool.value, {
      centre: toSource(to),
      edge: toSource({ x: from.edge.x + dx, y: from.edge.y + dy }),
    });
  } else if (part === "edge") {
    if (Math.hypot(to.x - from.centre.x, to.y - from.centre.y) > 4) pool.value.edge = toSource(to);
  } else {
    const wide = Math.hypot(to.x - from.centre.x, to.y - from.centre.y) / length.value;
    pool.value.across = Math.min(8, Math.max(0.05, wide));
  }
  scene.touched();
}
const { down, move, up } = useDrag<{ part: Part; from: Spot; centre: Spot; edge: Spot; copy: boolean }>({
  begin: (e) => {
    const part = (e.currentTarget as SVGElement).dataset.part as Part;
    const copy = e.altKey && part === "centre";
    return { part, from: at(part), centre: centre.value, edge: edge.value, copy };
  },
  move: (held, e, dx, dy) => {
    if (held.copy) {
      // carried off with Alt, one is left behind
      held.copy = false;
      const open = scene.openIngredient;
      scene.copyIngredient(props.line.id!);
      scene.openIngredient = open;
    }
    let to = { x: held.from.x + dx, y: held.from.y + dy };
    // Shift keeps the axis level or upright
    if (e.shiftKey && held.part === "edge")
      to =
        Math.abs(to.x - held.centre.x) > Math.abs(to.y - held.centre.y)
          ? { x: to.x, y: held.centre.y }
          : { x: held.centre.x, y: to.y };
    put(held.part, to, held);
  },
  done: () => void scene.commit("Pool placed"),
});
const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1],
}; // prettier-ignore
const held = useHeld();
function key(e: KeyboardEvent, part: Part): void {
  const by = WAYS[e.key];
  if (!by) return;
  e.preventDefault();
  e.stopPropagation();
  const step = e.shiftKey ? 1 : 8;
  const from = at(part);
  const to = { x: from.x + by[0] * step, y: from.y + by[1] * step };
  put(part, to, { centre: centre.value, edge: edge.value });
  held.pressed(() => void scene.commit("Pool placed"));
}
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
    <circle
      v-for="part in PARTS"
      :key="part"
      :cx="at(part).x"
      :cy="at(part).y"
      r="9"
      tabindex="0"
      role="button"
      :aria-label="SAYS[part]"
      :data-part="part"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @keydown="key($event, part)"
    />
  </g>
</template>

<style scoped>
.shape {
  pointer-events: none;
  fill: none;
}
.shade {
  stroke: rgb(0 0 0 / 45%);
  stroke-width: 3;
}
.line {
  stroke: var(--mark);
  stroke-width: 1;
}
.dashed {
  stroke-dasharray: 5 4;
}
circle {
  pointer-events: all;
  cursor: grab;
  fill: rgb(255 255 255 / 80%);
  stroke: var(--ink);
  stroke-width: 1.5;
}
circle:focus-visible {
  outline: none;
  stroke: var(--focus);
  stroke-width: 4;
}
</style>
