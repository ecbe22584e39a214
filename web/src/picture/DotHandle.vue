<script setup lang="ts">
/** A point on the picture that is dragged, or moved with the arrow keys: the one handle there is. */
import { computed, inject } from "vue";

import { useDrag } from "../composables/drag";
import { useHeld } from "../composables/held";
import { onPicture, type Spot } from "../model/plane";
import { FRAME } from "./frame";

/** How far it has gone since `begin`, px of the stage, and what is held meanwhile. */
export interface How {
  dx: number;
  dy: number;
  shift: boolean;
  alt: boolean;
}
const props = defineProps<{
  at: Spot;
  label: string;
  shape?: "round" | "square" | "hollow";
  cursor?: string;
}>();
const emit = defineEmits<{
  /** It is taken hold of. */
  begin: [];
  move: [to: Spot, how: How];
  done: [];
  remove: [];
  turn: [];
}>();
const { down, move, up } = useDrag<Spot>({
  begin() {
    emit("begin");
    return { ...props.at };
  },
  move: (from, e, dx, dy) =>
    emit("move", { x: from.x + dx, y: from.y + dy }, { dx, dy, shift: e.shiftKey, alt: e.altKey }),
  done: () => emit("done"),
});
const held = useHeld();
const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1],
}; // prettier-ignore
const COARSE = 8;
function key(e: KeyboardEvent): void {
  const by = WAYS[e.key];
  if (by) {
    const step = e.shiftKey ? 1 : COARSE;
    const [dx, dy] = [by[0] * step, by[1] * step];
    emit("begin");
    emit("move", { x: props.at.x + dx, y: props.at.y + dy }, { dx, dy, shift: false, alt: false });
    held.pressed(() => emit("done"));
  } else if (e.key === "Delete") emit("remove");
  else if (e.key === "Enter") emit("turn");
  else return;
  e.preventDefault();
  e.stopPropagation();
}
const frame = inject(FRAME, null);
/** Where it is, in percent of the picture: what is read out. */
const place = computed(() => {
  const p = frame ? onPicture(frame.value, props.at) : { x: 0, y: 0 };
  return { across: Math.round(100 * p.x), down: Math.round(100 * p.y) };
});
/** Half of what can be taken hold of, and of what is seen, px. */
const REACH = 12;
const SEEN = 7;
</script>

<template>
  <g
    tabindex="0"
    role="slider"
    :aria-label="label"
    :aria-valuenow="place.across"
    aria-valuemin="0"
    aria-valuemax="100"
    :aria-valuetext="`${place.across} % across, ${place.down} % down`"
    :class="shape ?? 'round'"
    :style="cursor ? { cursor } : undefined"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @dblclick="emit('turn')"
    @keydown="key"
  >
    <rect class="reach" :x="at.x - REACH" :y="at.y - REACH" :width="2 * REACH" :height="2 * REACH" />
    <rect
      class="seen"
      :x="at.x - SEEN"
      :y="at.y - SEEN"
      :width="2 * SEEN"
      :height="2 * SEEN"
      :rx="shape === 'square' ? 0 : SEEN"
    />
  </g>
</template>

<style scoped>
g {
  pointer-events: all;
  cursor: grab;
}
.reach {
  fill: transparent;
}
.seen {
  fill: rgb(255 255 255 / 80%);
  stroke: var(--ink);
  stroke-width: 1.5;
}
.hollow .seen {
  fill: rgb(40 40 40 / 75%);
  stroke: var(--mark);
}
g:focus-visible {
  outline: none;
}
g:focus-visible .seen {
  stroke: var(--focus);
  stroke-width: 4;
}
</style>
