<script setup lang="ts">
/** The crop on the untrimmed picture: eight handles, the inside to move it by, guides. */
import { useEventListener } from "@vueuse/core";
import { computed, ref } from "vue";

import { useDrag } from "../composables/drag";
import { useHeld } from "../composables/held";
import { guideLines } from "../model/guides";
import { onStage, type Frame, type Region } from "../model/plane";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import DotHandle from "./DotHandle.vue";

const props = defineProps<{ frame: Frame }>();
const scene = useScene();
const view = useView();
/** What is being asked for while a handle is dragged; the server's answer keeps clear of empty corners. */
const wanted = ref<Region | null>(null);
const kept = computed<Region>(() => (wanted.value ?? scene.map?.kept ?? [0, 0, 1, 1]) as Region);
const box = computed(() => {
  const [x0, y0, x1, y1] = scene.map!.box as Region;
  const [a, b, c, d] = kept.value;
  const low = onStage(props.frame, { x: (a - x0) / (x1 - x0), y: (b - y0) / (y1 - y0) });
  const high = onStage(props.frame, { x: (c - x0) / (x1 - x0), y: (d - y0) / (y1 - y0) });
  return { x: low.x, y: low.y, width: high.x - low.x, height: high.y - low.y };
});
/** Stage px per unit of the turned plane. */
const pitch = computed(() => props.frame.width / (scene.map!.box[2]! - scene.map!.box[0]!));
const HANDLES = ["nw", "n", "ne", "e", "se", "s", "sw", "w"] as const;
type Handle = (typeof HANDLES)[number] | "inside";
const WORDS: Record<string, string> = {
  n: "top edge", s: "bottom edge", w: "left edge", e: "right edge", nw: "top left corner",
  ne: "top right corner", sw: "bottom left corner", se: "bottom right corner",
}; // prettier-ignore
const CURSORS: Record<string, string> = {
  n: "ns-resize", s: "ns-resize", w: "ew-resize", e: "ew-resize", nw: "nwse-resize", se: "nwse-resize",
  ne: "nesw-resize", sw: "nesw-resize",
}; // prettier-ignore
function place(h: string): { x: number; y: number } {
  const b = box.value;
  const x = h.includes("w") ? 0 : h.includes("e") ? 1 : 0.5;
  const y = h.includes("n") ? 0 : h.includes("s") ? 1 : 0.5;
  return { x: b.x + x * b.width, y: b.y + y * b.height };
}
const guides = computed(() =>
  guideLines(view.guide).map(([a, b, c, d]) => {
    const f = box.value;
    return `M${f.x + a * f.width} ${f.y + b * f.height}L${f.x + c * f.width} ${f.y + d * f.height}`;
  }),
);

/** A region with one handle moved; its shape is held unless the format is free. */
function pulled(start: Region, handle: Handle, dx: number, dy: number, held: boolean): Region {
  let [x0, y0, x1, y1] = start;
  const [cx0, cy0, cx1, cy1] = scene.map!.canvas as Region;
  if (handle === "inside") {
    dx = Math.min(Math.max(dx, cx0 - x0), cx1 - x1);
    dy = Math.min(Math.max(dy, cy0 - y0), cy1 - y1);
    return [x0 + dx, y0 + dy, x1 + dx, y1 + dy];
  }
  const least = 0.03;
  if (handle.includes("w")) x0 = Math.max(Math.min(x0 + dx, x1 - least), cx0);
  if (handle.includes("e")) x1 = Math.min(Math.max(x1 + dx, x0 + least), cx1);
  if (handle.includes("n")) y0 = Math.max(Math.min(y0 + dy, y1 - least), cy0);
  if (handle.includes("s")) y1 = Math.min(Math.max(y1 + dy, y0 + least), cy1);
  if (held) {
    const aspect = (start[2] - start[0]) / (start[3] - start[1]);
    const byWidth =
      handle === "e" || handle === "w" || (handle.length === 2 && (x1 - x0) / aspect <= y1 - y0);
    const w = byWidth ? x1 - x0 : (y1 - y0) * aspect;
    const h = w / aspect;
    if (handle.includes("w")) x0 = x1 - w;
    else if (handle.includes("e")) x1 = x0 + w;
    else [x0, x1] = [(x0 + x1 - w) / 2, (x0 + x1 + w) / 2];
    if (handle.includes("n")) y0 = y1 - h;
    else if (handle.includes("s")) y1 = y0 + h;
    else [y0, y1] = [(y0 + y1 - h) / 2, (y0 + y1 + h) / 2];
  }
  return [x0, y0, x1, y1];
}
function keep(region: Region): void {
  const [x0, y0, x1, y1] = region;
  const centre = scene.plane!.fromTurned({ x: (x0 + x1) / 2, y: (y0 + y1) / 2 });
  const free = scene.ground("trim").params.format === "free";
  void scene
    .setGround("trim", { centre, width: x1 - x0, height: free ? y1 - y0 : null }, "Crop")
    .then(() => (wanted.value = null));
}
const shaped = () => scene.ground("trim").params.format !== "free";
let start: Region = [0, 0, 1, 1];
function take(): void {
  start = [...kept.value] as Region;
}
function pull(handle: Handle, dx: number, dy: number): void {
  wanted.value = pulled(start, handle, dx / pitch.value, dy / pitch.value, shaped());
}
const done = () => wanted.value && keep(wanted.value);
/** The inside is carried as a whole. */
const { down, move, up } = useDrag<true>({
  begin() {
    take();
    return true;
  },
  move: (_held, _e, dx, dy) => pull("inside", dx, dy),
  done,
});
const held = useHeld();
const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1],
}; // prettier-ignore
function key(e: KeyboardEvent): void {
  const by = WAYS[e.key];
  if (!by) return;
  e.preventDefault();
  e.stopPropagation();
  const step = e.shiftKey ? 1 : 8;
  take();
  pull("inside", by[0] * step, by[1] * step);
  held.pressed(done);
}
useEventListener(window, "keydown", (e) => e.key === "Escape" && (wanted.value = null), { capture: true });
</script>

<template>
  <g>
    <path
      class="outside"
      fill-rule="evenodd"
      :d="`M${frame.left} ${frame.top}h${frame.width}v${frame.height}h${-frame.width}z M${box.x} ${box.y}h${box.width}v${box.height}h${-box.width}z`"
    />
    <path v-for="(d, n) in guides" :key="n" :d="d" class="guide" />
    <rect
      v-bind="box"
      class="inside"
      tabindex="0"
      role="button"
      aria-label="Crop: move it"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @keydown="key"
    />
    <DotHandle
      v-for="h in HANDLES"
      :key="h"
      :at="place(h)"
      shape="square"
      :cursor="CURSORS[h]"
      :label="`Crop: ${WORDS[h]}`"
      @begin="take"
      @move="(_, how) => pull(h, how.dx, how.dy)"
      @done="done"
    />
  </g>
</template>

<style scoped>
.outside {
  fill: rgb(110 110 110 / 62%);
}
.guide {
  stroke: rgb(255 255 255 / 55%);
  stroke-width: 1;
}
.inside {
  fill: transparent;
  stroke: var(--mark);
  stroke-width: 1.5;
  pointer-events: all;
  cursor: move;
}
.inside:focus-visible {
  outline: none;
  stroke: var(--focus);
  stroke-width: 3;
}
</style>
