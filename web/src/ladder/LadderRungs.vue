<script setup lang="ts">
/** Rungs and curves on the ladder: a strand for every rung, from where its light is to where it goes. */
import { computed, onBeforeUnmount, watch } from "vue";

import type { MoveLine, Schemas, Whole } from "../api/client";
import { useDrag } from "../composables/drag";
import { useHeld } from "../composables/held";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import { signedStops } from "../model/wording";

const props = defineProps<{
  move: MoveLine;
  rungs: number[];
  y: (stop: number) => number;
  pitch: number;
  width: number;
}>();
const scene = useScene();
const view = useView();
const curve = computed(() => props.move.kind === "curve");
const word = computed(() => (curve.value ? "Curve" : "Rung"));
const params = computed(() => props.move.params as Whole<Schemas["RungsParams"] & Schemas["CurveParams"]>);
const declared = computed(
  () =>
    scene.lightKinds.find((k) => k.kind === props.move.kind)!.fields.find((f) => f.kind === "drawn")!.items ??
    [],
);
const LEFT = 6;
const right = computed(() => props.width - 10);

interface Strand {
  at: number;
  to: number;
  set: boolean;
}
/** Every rung that shows, and where points of a curve stand between them. */
const strands = computed<Strand[]>(() => {
  const own = curve.value
    ? params.value.points.map((p) => ({ at: p.at, to: p.to, set: true }))
    : params.value.rungs.map((r) => ({ at: r.at, to: r.at + r.by + squeezed(r.at), set: true }));
  const rest = props.rungs
    .filter((s) => !own.some((o) => Math.abs(o.at - s) < 0.26))
    .map((s) => ({ at: s, to: s + (curve.value ? bent(s) : squeezed(s) + pulled(s)), set: false }));
  return [...own, ...rest].sort((a, b) => a.at - b.at);
});
/** What carried rungs pull their neighbours by, as they stand. */
function pulled(s: number): number {
  let [sum, by] = [0, 0];
  for (const r of params.value.rungs) {
    const t = Math.max(0, 1 - Math.abs(s - r.at) / r.reach);
    const pull = t * t * (3 - 2 * t);
    sum += pull;
    by += pull * r.by;
  }
  return by / Math.max(1, sum);
}
const squeezed = (s: number) => params.value.squeeze * (s - params.value.middle);

/** What a curve's points do between them, straight from one to the next. */
function bent(s: number): number {
  const points = [...params.value.points].sort((a, b) => a.at - b.at);
  if (!points.length) return 0;
  const above = points.findIndex((p) => p.at >= s);
  if (above === 0) return points[0]!.to - points[0]!.at;
  if (above < 0) return points.at(-1)!.to - points.at(-1)!.at;
  const [a, b] = [points[above - 1]!, points[above]!];
  return a.to + ((b.to - a.to) * (s - a.at)) / (b.at - a.at) - s;
}

function put(at: number, to: number, reach?: number): void {
  if (curve.value) {
    const has = params.value.points.find((p) => Math.abs(p.at - at) < 0.01);
    if (has) has.to = to;
    else params.value.points.push({ at, to });
  } else {
    const by = to - at - squeezed(at);
    const has = params.value.rungs.find((r) => Math.abs(r.at - at) < 0.01);
    if (has) Object.assign(has, { by, reach: reach ?? has.reach });
    else params.value.rungs.push({ at, by, reach: reach ?? fresh() });
  }
  show(at);
  scene.touched();
}
/** Where the rung is felt is shown on the picture while it is carried. */
function show(at: number): void {
  const n = curve.value ? -1 : params.value.rungs.findIndex((r) => Math.abs(r.at - at) < 0.01);
  view.zone = n < 0 ? null : { move: props.move.id!, n };
}
function hide(): void {
  view.zone = null;
}
onBeforeUnmount(hide);
watch(
  () => scene.dragging,
  (dragging) => !dragging && hide(),
);
const limit = (name: string, v: number) => {
  const f = declared.value.find((d) => d.name === name);
  return Math.min(f?.high ?? 99, Math.max(f?.low ?? -99, v));
};
const fresh = () => declared.value.find((f) => f.name === "reach")?.default as number;
const reachOf = (at: number) => params.value.rungs?.find((r) => Math.abs(r.at - at) < 0.01)?.reach ?? fresh();
const { down, move, up } = useDrag<{ at: number; to: number; reach: number }>({
  begin(e) {
    const s = strands.value[Number((e.currentTarget as SVGElement).dataset.n)]!;
    return { at: s.at, to: s.to, reach: reachOf(s.at) };
  },
  move(held, e, dx, dy) {
    const grid = e.shiftKey ? 0.02 : 0.1;
    const raw = held.to - (dy / props.pitch) * (e.shiftKey ? 0.1 : 1);
    const to = Math.round(raw / grid) * grid;
    const wide = curve.value
      ? undefined
      : limit("reach", held.reach - (Math.sign(dx) * Math.max(0, Math.abs(dx) - 12)) / 24);
    put(
      held.at,
      curve.value
        ? limit("to", to)
        : held.at + squeezed(held.at) + limit("by", to - held.at - squeezed(held.at)),
      wide,
    );
  },
  done: () => void scene.commit(curve.value ? "Draw curve" : "Move rung"),
});
const held = useHeld();
function key(e: KeyboardEvent, s: Strand): void {
  const ways: Record<string, number> = { ArrowUp: 1, ArrowDown: -1 };
  const by = ways[e.key];
  if (by !== undefined) put(s.at, s.to + by * (e.shiftKey ? 0.02 : 0.1));
  else if (e.key === "Delete") return remove(s, e);
  else if (!curve.value && (e.key === "ArrowLeft" || e.key === "ArrowRight"))
    put(s.at, s.to, limit("reach", reachOf(s.at) + (e.key === "ArrowLeft" ? 0.1 : -0.1)));
  else return;
  e.preventDefault();
  e.stopPropagation();
  held.pressed(() => void scene.commit(curve.value ? "Draw curve" : "Move rung"));
}
function remove(s: Strand, e: Event): void {
  e.preventDefault();
  const list = (curve.value ? params.value.points : params.value.rungs) as { at: number }[];
  const n = list.findIndex((p) => Math.abs(p.at - s.at) < 0.01);
  if (n < 0) return;
  list.splice(n, 1);
  void scene.commit(curve.value ? "Remove point" : "Remove rung");
}
const said = (v: number) => `${signedStops(v)} stops`;
</script>

<template>
  <g class="strands" :class="{ dashed: curve }">
    <path
      v-for="s in strands"
      :key="`s${s.at}`"
      :class="{ set: s.set }"
      :d="`M${LEFT} ${y(s.at)}C${LEFT + 50} ${y(s.at)} ${right - 50} ${y(s.to)} ${right} ${y(s.to)}`"
    />
    <g
      v-for="(s, n) in strands"
      :key="`h${s.at}`"
      :data-n="n"
      role="slider"
      tabindex="0"
      aria-orientation="vertical"
      :transform="`translate(${right} ${y(s.to)})`"
      :aria-label="`${word} at ${said(s.at)}`"
      :aria-valuenow="s.to"
      :aria-valuetext="`goes to ${said(s.to)}`"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @dblclick="remove(s, $event)"
      @keydown="key($event, s)"
      @blur="hide"
    >
      <title>{{ word }} at {{ said(s.at) }} goes to {{ said(s.to) }}</title>
      <rect x="-26" :y="-pitch / 2" width="36" :height="pitch" />
      <circle :r="s.set ? 6 : 4" :class="{ set: s.set }" />
    </g>
  </g>
</template>

<style scoped>
path {
  fill: none;
  stroke: rgb(40 40 40 / 35%);
  pointer-events: none;
}
path.set {
  stroke: var(--accent);
  stroke-width: 2;
}
.dashed path {
  stroke-dasharray: 4 3;
}
[role="slider"] {
  cursor: ns-resize;
  touch-action: none;
}
rect {
  fill: transparent;
}
circle {
  fill: var(--mark);
  stroke: var(--ink-2);
}
circle.set {
  fill: var(--accent);
}
[role="slider"]:focus-visible {
  outline: none;
}
[role="slider"]:focus-visible circle {
  stroke-width: 3;
}
</style>
