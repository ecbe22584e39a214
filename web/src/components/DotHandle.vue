<script setup lang="ts">
/** A dot on the picture that is dragged, or moved with the arrow keys. */
import { useDrag } from "../composables/drag";
import { useHeld } from "../composables/held";
import type { Spot } from "../model/plane";

const props = defineProps<{ at: Spot; label: string; square?: boolean }>();
const emit = defineEmits<{ move: [to: Spot]; done: []; remove: []; turn: [] }>();
const { down, move, up } = useDrag<Spot>({
  begin: () => ({ ...props.at }),
  move: (from, _e, dx, dy) => emit("move", { x: from.x + dx, y: from.y + dy }),
  done: () => emit("done"),
});
const held = useHeld();
const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1],
}; // prettier-ignore
function key(e: KeyboardEvent): void {
  const by = WAYS[e.key];
  if (by) {
    const step = e.shiftKey ? 1 : 8;
    emit("move", { x: props.at.x + by[0] * step, y: props.at.y + by[1] * step });
    held.pressed(() => emit("done"));
  } else if (e.key === "Delete") emit("remove");
  else if (e.key === "Enter") emit("turn");
  else return;
  e.preventDefault();
  e.stopPropagation();
}
</script>

<template>
  <rect
    :x="at.x - 7"
    :y="at.y - 7"
    width="14"
    height="14"
    :rx="square ? 0 : 7"
    tabindex="0"
    role="button"
    :aria-label="label"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @dblclick="emit('turn')"
    @keydown="key"
  />
</template>

<style scoped>
rect {
  pointer-events: all;
  cursor: grab;
  fill: rgb(255 255 255 / 80%);
  stroke: var(--ink);
  stroke-width: 1.5;
}
rect:focus-visible {
  outline: none;
  stroke: var(--focus);
  stroke-width: 4;
}
</style>
