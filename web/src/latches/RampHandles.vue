<script setup lang="ts">
/** The two ends of a ramp on the picture; the line between them, and how far it reaches. */
import { computed } from "vue";

import { of, type IngredientLine } from "../api/client";
import { useDrag } from "../composables/drag";
import type { Frame, Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import DotHandle, { type How } from "../picture/DotHandle.vue";

const props = defineProps<{ line: IngredientLine; frame: Frame }>();
const scene = useScene();
const ends = computed(() => of(props.line, "ramp").params);

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

type Which = "full" | "none";
const SAYS: Record<Which, string> = {
  full: "Ramp: where it holds fully",
  none: "Ramp: where it holds nothing",
};
function apart(a: Spot, b: Spot): boolean {
  return Math.hypot(a.x - b.x, a.y - b.y) > 0.002;
}
function put(which: Which, to: Spot, how: How): void {
  const other = which === "full" ? none.value : full.value;
  // Shift keeps the ramp upright
  const place = toSource(how.shift ? { x: other.x, y: to.y } : to);
  if (!apart(place, toSource(other))) return;
  ends.value[which] = place;
  scene.touched();
}
const done = () => void scene.commit("Place ramp");
/** The line between them carries both: it keeps where they lay when it was taken hold of. */
const { down, move, up } = useDrag<{ full: Spot; none: Spot }>({
  begin: () => ({ full: full.value, none: none.value }),
  move(held, _e, dx, dy) {
    const to = (p: Spot) => toSource({ x: p.x + dx, y: p.y + dy });
    Object.assign(ends.value, { full: to(held.full), none: to(held.none) });
    scene.touched();
  },
  done,
});
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
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
    />
    <DotHandle
      v-for="which in ['full', 'none'] as const"
      :key="which"
      :at="which === 'full' ? full : none"
      :shape="which === 'full' ? 'round' : 'hollow'"
      :label="SAYS[which]"
      @move="(to, how) => put(which, to, how)"
      @done="done"
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
</style>
