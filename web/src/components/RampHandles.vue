<script setup lang="ts">
/** The two ends of a ramp on the picture; the line between them, and how far it reaches. */
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import type { Frame, Spot } from "../model/plane";
import { useScene } from "../stores/scene";

const props = defineProps<{ line: IngredientLine; frame: Frame }>();
const scene = useScene();

interface Ends {
  full: Spot;
  none: Spot;
}
const ends = computed(() => props.line.params as unknown as Ends);

function toStage(p: Spot): Spot {
  const u = scene.plane!.toPicture(p);
  return { x: props.frame.left + u.x * props.frame.width, y: props.frame.top + u.y * props.frame.height };
}
function toSource(p: Spot): Spot {
  return scene.plane!.toSource({
    x: (p.x - props.frame.left) / props.frame.width,
    y: (p.y - props.frame.top) / props.frame.height,
  });
}
const full = computed(() => toStage(ends.value.full));
const none = computed(() => toStage(ends.value.none));
/** A bar across the ramp through one end, long enough to read its slope. */
function bar(at: Spot): string {
  const dx = none.value.x - full.value.x;
  const dy = none.value.y - full.value.y;
  const n = Math.hypot(dx, dy) || 1;
  const x = (-dy / n) * 900;
  const y = (dx / n) * 900;
  return `M${at.x - x} ${at.y - y}L${at.x + x} ${at.y + y}`;
}

let held: "full" | "none" | "both" | null = null;
let offset: Spot = { x: 0, y: 0 };
let last: Spot = { x: 0, y: 0 };

function inStage(e: PointerEvent): Spot {
  const box = (e.currentTarget as Element).closest("svg")!.getBoundingClientRect();
  return { x: e.clientX - box.left, y: e.clientY - box.top };
}
function down(e: PointerEvent, which: "full" | "none" | "both"): void {
  if (e.button !== 0) return;
  e.stopPropagation();
  held = which;
  last = inStage(e);
  const at = which === "none" ? none.value : full.value;
  offset = { x: at.x - last.x, y: at.y - last.y };
  (e.currentTarget as Element).setPointerCapture(e.pointerId);
}
function apart(a: Spot, b: Spot): boolean {
  return Math.hypot(a.x - b.x, a.y - b.y) > 0.002;
}
function move(e: PointerEvent): void {
  if (!held) return;
  const p = inStage(e);
  if (held === "both") {
    const by = { x: p.x - last.x, y: p.y - last.y };
    const f = toSource({ x: full.value.x + by.x, y: full.value.y + by.y });
    const n = toSource({ x: none.value.x + by.x, y: none.value.y + by.y });
    Object.assign(ends.value, { full: f, none: n });
    last = p;
  } else {
    let to = { x: p.x + offset.x, y: p.y + offset.y };
    const other = held === "full" ? none.value : full.value;
    if (e.shiftKey) to = { x: other.x, y: to.y };
    const source = toSource(to);
    if (apart(source, held === "full" ? ends.value.none : ends.value.full)) ends.value[held] = source;
  }
  scene.touched();
}
function up(): void {
  if (held) void scene.commit("Ramp placed");
  held = null;
}
function key(e: KeyboardEvent, which: "full" | "none"): void {
  const way: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1],
  }; // prettier-ignore
  const by = way[e.key];
  if (e.key === "Escape" && held) {
    held = null;
    scene.restore();
    e.stopPropagation();
    return;
  }
  if (!by) return;
  e.preventDefault();
  e.stopPropagation();
  const at = which === "full" ? full.value : none.value;
  const step = e.shiftKey ? 1 : 8;
  const source = toSource({ x: at.x + by[0] * step, y: at.y + by[1] * step });
  if (!apart(source, which === "full" ? ends.value.none : ends.value.full)) return;
  ends.value[which] = source;
  scene.touched();
}
function released(e: KeyboardEvent): void {
  if (e.key.startsWith("Arrow")) void scene.commit("Ramp placed");
}
</script>

<template>
  <g>
    <path :d="bar(full)" class="shade" />
    <path :d="bar(none)" class="shade" />
    <path :d="bar(full)" class="bar" />
    <path :d="bar(none)" class="bar dashed" />
    <path
      :d="`M${full.x} ${full.y}L${none.x} ${none.y}`"
      class="spine"
      @pointerdown="down($event, 'both')"
      @pointermove="move"
      @pointerup="up"
    />
    <circle
      v-for="which in ['full', 'none'] as const"
      :key="which"
      :cx="which === 'full' ? full.x : none.x"
      :cy="which === 'full' ? full.y : none.y"
      r="9"
      :class="which"
      tabindex="0"
      role="button"
      :aria-label="which === 'full' ? 'Ramp: where it holds fully' : 'Ramp: where it holds nothing'"
      @pointerdown="down($event, which)"
      @pointermove="move"
      @pointerup="up"
      @keydown="key($event, which)"
      @keyup="released"
    />
  </g>
</template>

<style scoped>
.shade {
  stroke: rgb(0 0 0 / 45%);
  stroke-width: 3;
  pointer-events: none;
}
.bar {
  stroke: #fff;
  stroke-width: 1.2;
  pointer-events: none;
}
.dashed {
  stroke-dasharray: 6 5;
}
.spine {
  stroke: rgb(255 255 255 / 75%);
  stroke-width: 9;
  stroke-opacity: 0.35;
  cursor: move;
  pointer-events: stroke;
}
circle {
  stroke: #1d1d1d;
  stroke-width: 1.5;
  cursor: grab;
  pointer-events: all;
}
circle.full {
  fill: #fff;
}
circle.none {
  fill: rgb(40 40 40 / 75%);
  stroke: #fff;
}
circle:focus-visible {
  outline: none;
  stroke: #d8b45a;
  stroke-width: 4;
}
</style>
