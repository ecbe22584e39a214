<script setup lang="ts">
/** The two ends of a ramp on the picture; the line between them, and how far it reaches. */
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import { useDrag } from "../composables/drag";
import { useHeld } from "../composables/held";
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

type Which = "full" | "none" | "both";
function apart(a: Spot, b: Spot): boolean {
  return Math.hypot(a.x - b.x, a.y - b.y) > 0.002;
}
/** The drag keeps where both ends lay when it began, on the stage. */
const { down, move, up } = useDrag<{ which: Which; full: Spot; none: Spot }>({
  begin: (e) => ({
    which: (e.currentTarget as SVGElement).dataset.which as Which,
    full: full.value,
    none: none.value,
  }),
  move(held, e, dx, dy) {
    const to = (p: Spot) => toSource({ x: p.x + dx, y: p.y + dy });
    if (held.which === "both") Object.assign(ends.value, { full: to(held.full), none: to(held.none) });
    else {
      const own = held[held.which];
      const other = held[held.which === "full" ? "none" : "full"];
      const place = e.shiftKey ? toSource({ x: other.x, y: own.y + dy }) : to(own);
      if (apart(place, toSource(other))) ends.value[held.which] = place;
    }
    scene.touched();
  },
  done: () => void scene.commit("Ramp placed"),
});
const held = useHeld();
function key(e: KeyboardEvent, which: "full" | "none"): void {
  const way: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1],
  }; // prettier-ignore
  const by = way[e.key];
  if (!by) return;
  e.preventDefault();
  e.stopPropagation();
  const at = which === "full" ? full.value : none.value;
  const step = e.shiftKey ? 1 : 8;
  const source = toSource({ x: at.x + by[0] * step, y: at.y + by[1] * step });
  if (!apart(source, which === "full" ? ends.value.none : ends.value.full)) return;
  ends.value[which] = source;
  scene.touched();
  held.pressed(() => void scene.commit("Ramp placed"));
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
      data-which="both"
      @pointerdown="down"
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
      :data-which="which"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @keydown="key($event, which)"
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
  stroke: var(--mark);
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
  stroke: var(--ink);
  stroke-width: 1.5;
  cursor: grab;
  pointer-events: all;
}
circle.full {
  fill: var(--mark);
}
circle.none {
  fill: rgb(40 40 40 / 75%);
  stroke: var(--mark);
}
circle:focus-visible {
  outline: none;
  stroke: var(--focus);
  stroke-width: 4;
}
</style>
