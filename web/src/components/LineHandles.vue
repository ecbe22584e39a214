<script setup lang="ts">
/** Lines drawn for Plumb: their ends can be moved; letting go solves anew. */
import { computed } from "vue";

import type { Schemas } from "../api/client";
import { useDrag } from "../composables/drag";
import { useHeld } from "../composables/held";
import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { useScene } from "../stores/scene";

type Line = Schemas["DrawnLine"];
const props = defineProps<{ lines: Line[]; frame: Frame }>();
const emit = defineEmits<{ moved: [] }>();
const scene = useScene();

const toStage = (p: Spot) => onStage(props.frame, scene.plane!.toPicture(p));
const toSource = (p: Spot) => scene.plane!.toSource(onPicture(props.frame, p));
const shown = computed(() =>
  props.lines.map((line) => ({ line, a: toStage(line.a as Spot), b: toStage(line.b as Spot) })),
);
/** The line drawn out over the picture, to see what it meets. */
function along(a: Spot, b: Spot): string {
  const dx = (b.x - a.x) * 6;
  const dy = (b.y - a.y) * 6;
  return `M${a.x - dx} ${a.y - dy}L${b.x + dx} ${b.y + dy}`;
}
const { down, move, up } = useDrag<{ line: Line; end: "a" | "b"; at: Spot }>({
  begin(e) {
    const { n, end } = (e.currentTarget as SVGElement).dataset as { n: string; end: "a" | "b" };
    const line = props.lines[Number(n)]!;
    return { line, end, at: toStage(line[end] as Spot) };
  },
  move(held, _, dx, dy) {
    held.line[held.end] = toSource({ x: held.at.x + dx, y: held.at.y + dy });
    scene.tick++;
  },
  done: () => emit("moved"),
});
const held = useHeld();
function key(e: KeyboardEvent, line: Line, end: "a" | "b"): void {
  const way: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1],
  }; // prettier-ignore
  const by = way[e.key];
  if (!by) return;
  e.preventDefault();
  e.stopPropagation();
  const at = toStage(line[end] as Spot);
  const step = e.shiftKey ? 1 : 8;
  line[end] = toSource({ x: at.x + by[0] * step, y: at.y + by[1] * step });
  held.pressed(() => emit("moved"));
}
</script>

<template>
  <g v-for="(s, n) in shown" :key="n">
    <path :d="along(s.a, s.b)" class="far" />
    <path :d="`M${s.a.x} ${s.a.y}L${s.b.x} ${s.b.y}`" class="under" />
    <path :d="`M${s.a.x} ${s.a.y}L${s.b.x} ${s.b.y}`" class="line" />
    <circle
      v-for="end in ['a', 'b'] as const"
      :key="end"
      :cx="s[end].x"
      :cy="s[end].y"
      r="7"
      tabindex="0"
      role="button"
      :aria-label="`${s.line.what} line ${n + 1}, ${end === 'a' ? 'first' : 'second'} end`"
      :data-n="n"
      :data-end="end"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @keydown="key($event, s.line, end)"
    />
  </g>
</template>

<style scoped>
.under {
  stroke: rgb(0 0 0 / 55%);
  stroke-width: 4;
}
.line {
  stroke: var(--mark);
  stroke-width: 1.6;
}
.far {
  stroke: rgb(255 255 255 / 45%);
  stroke-dasharray: 3 7;
}
circle {
  fill: rgb(40 40 40 / 60%);
  stroke: var(--mark);
  stroke-width: 1.5;
  cursor: grab;
  pointer-events: all;
}
circle:focus-visible {
  outline: none;
  stroke: var(--focus);
  stroke-width: 4;
}
</style>
