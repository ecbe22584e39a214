<script setup lang="ts">
/** The two notches on the ladder's wedge: where the picture prints white and where it prints black.
 * They are the Ends move, to be dragged up and down. */
import { computed } from "vue";

import type { ParamField } from "../api/client";
import { useDrag } from "../composables/drag";
import { useHeld } from "../composables/held";
import { shown, within } from "../model/wording";
import { useScene } from "../stores/scene";

const props = defineProps<{ black: number; white: number; y: (stop: number) => number; pitch: number }>();
const scene = useScene();
type End = "white" | "black";
const ENDS: End[] = ["white", "black"];

const kind = computed(() => scene.groundKinds.find((k) => k.kind === "ends")!);
const field = (end: End): ParamField => kind.value.fields.find((f) => f.name === end)!;
const params = () => scene.document!.ground!.ends!.params as Record<End, number | null>;
/** The document leads while dragging; the meters answer a moment later. */
const at = (end: End) => params()[end] ?? props[end];

function set(end: End, stop: number | null): void {
  params()[end] = stop === null ? ((field(end).default as number | null) ?? null) : within(field(end), stop);
  scene.touched();
}
const done = (end: End) => scene.commit(field(end).label);

const { down, move, up } = useDrag<{ end: End; at: number }>({
  begin(e) {
    const end = (e.currentTarget as SVGElement).dataset.end as End;
    return { end, at: at(end) };
  },
  move(held, e, _, dy) {
    const grid = e.shiftKey ? 0.02 : 0.1;
    const raw = held.at - (dy / props.pitch) * (e.shiftKey ? 0.1 : 1);
    set(held.end, Math.round(raw / grid) * grid);
  },
  done: (held) => void done(held.end),
});
const held = useHeld();
function key(e: KeyboardEvent, end: End): void {
  const ways: Record<string, number> = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 };
  const by = ways[e.key];
  if (by === undefined) return;
  e.preventDefault();
  e.stopPropagation();
  set(end, at(end) + by * (field(end).step ?? 0.1) * (e.shiftKey ? 0.2 : 1));
  held.pressed(() => void done(end));
}
function reset(end: End): void {
  set(end, null);
  void done(end);
}
</script>

<template>
  <g
    v-for="end in ENDS"
    :key="end"
    class="end"
    :data-end="end"
    role="slider"
    tabindex="0"
    :transform="`translate(0 ${y(at(end))})`"
    :aria-label="field(end).label"
    aria-orientation="vertical"
    :aria-valuenow="at(end)"
    :aria-valuemin="field(end).low ?? undefined"
    :aria-valuemax="field(end).high ?? undefined"
    :aria-valuetext="shown(field(end), at(end))"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @keydown="key($event, end)"
    @dblclick="reset(end)"
  >
    <title>{{ field(end).label }}: {{ shown(field(end), at(end)) }}</title>
    <rect x="46" y="-12" width="58" height="24" />
    <path d="M48 0l11 -5v10zM102 0l-11 -5v10z" />
    <path class="thread" d="M59 0h32" />
  </g>
</template>

<style scoped>
.end {
  cursor: ns-resize;
  touch-action: none;
}
rect {
  fill: transparent;
}
path {
  fill: var(--accent);
}
.thread {
  stroke: var(--accent);
  stroke-width: 1.5;
}
.end:focus-visible {
  outline: none;
}
.end:focus-visible rect {
  stroke: var(--accent);
  stroke-width: 2;
}
</style>
