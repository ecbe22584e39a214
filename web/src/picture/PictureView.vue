<script setup lang="ts">
/** One picture, and nothing else: always its newest answer, carried and zoomed by whatever points. Several of them may
 * stand side by side. */
import { useElementSize, useEventListener } from "@vueuse/core";
import { computed, provide, ref, watch } from "vue";

import type { Refusal } from "../api/client";
import type { Frame, Map, Spot } from "../model/plane";
import { FRAME } from "./frame";
import { draw, type Mask } from "./overlaid";
import { PointerLayer, type Below } from "./pointer";
import { useRatio } from "./ratio";
import { useShown, type Shot, type Wish } from "./shown";
import { useViewport, type Sheet, type Size, type Viewport } from "./viewport";

const props = defineProps<{
  /** What is shown; null for nothing yet. Whenever it is another, it is asked for. */
  wish: Wish | null;
  /** The size of the whole picture, px. */
  plane: Size | null;
  seen: Viewport;
  /** Something is being dragged: answers may be quick ones. */
  dragging?: boolean;
  /** What is in hand, if anything. */
  hand?: Omit<Below, "panBy" | "zoomBy" | "scaleBy">;
  mask?: Mask | null;
  /** A sheet that the picture lies on, which is fitted in its place. */
  sheet?: Sheet | null;
  /** How it is turned on the screen, to be looked at only. */
  turned?: string;
  label: string;
}>();
const emit = defineEmits<{ shown: [shot: Shot]; map: [map: Map]; failed: [error: Refusal] }>();

const stage = ref<HTMLDivElement>();
const canvas = ref<HTMLCanvasElement>();
const measured = useElementSize(stage);
const size = computed<Size>(() => ({
  width: Math.round(measured.width.value) || 100,
  height: Math.round(measured.height.value) || 100,
}));
const plane = computed(() => props.plane);
const ratio = useRatio();
const sheet = computed(() => props.sheet ?? null);
const { frame, target, zoomBy, scaleBy, panBy } = useViewport(props.seen, plane, size, ratio, sheet);
provide(FRAME, frame);

const { shot, pending, waiting, ask, settle, fresh } = useShown({
  wish: () => (size.value.width < 50 ? null : props.wish),
  target,
  dragging: () => !!props.dragging,
  got(got) {
    emit("shown", got);
    if (got.map) emit("map", got.map);
    paint();
  },
  failed: (error) => emit("failed", error),
});
function paint(): void {
  if (canvas.value) draw(canvas.value, size.value, frame.value, shot.value, props.mask ?? null, ratio.value);
}
watch(
  () => props.wish,
  () => ask(false),
);
watch(() => props.dragging, fresh);
watch(() => props.mask, paint);
watch([frame, size], () => {
  paint();
  ask(false);
  settle();
});

const pointer = new PointerLayer(() => stage.value!, {
  down: (at) => props.hand?.down(at) ?? false,
  move: (at) => props.hand?.move(at),
  up: (at) => props.hand?.up(at),
  cancel: () => props.hand?.cancel(),
  hover: (at) => props.hand?.hover(at),
  panBy,
  zoomBy,
  scaleBy,
});
useEventListener(window, "keydown", (e) => e.code === "Space" && aimed(e) && pointer.spaced(true));
useEventListener(window, "keyup", (e) => e.code === "Space" && pointer.spaced(false));
useEventListener(window, "blur", () => pointer.spaced(false));
/** Space is the picture's while nothing else that would take it has the focus. */
function aimed(e: KeyboardEvent): boolean {
  const on = e.target as HTMLElement;
  if (on !== document.body && on !== stage.value) return false;
  e.preventDefault();
  return true;
}
const PAN: Record<string, Spot> = {
  ArrowLeft: { x: 1, y: 0 },
  ArrowRight: { x: -1, y: 0 },
  ArrowUp: { x: 0, y: 1 },
  ArrowDown: { x: 0, y: -1 },
};
/** Keys on the picture itself: the arrows carry it, plus and minus zoom about its middle. */
function key(e: KeyboardEvent): void {
  if (e.target !== stage.value || e.defaultPrevented || e.ctrlKey || e.metaKey || e.altKey) return;
  const by = PAN[e.key];
  const middle = { x: size.value.width / 2, y: size.value.height / 2 };
  if (by && props.seen.zoom) {
    const step = e.shiftKey ? 0.02 : 0.2;
    panBy({ x: by.x * size.value.width * step, y: by.y * size.value.height * step });
  } else if (e.key === "+" || e.key === "=") zoomBy(-120, middle);
  else if (e.key === "-") zoomBy(120, middle);
  else return;
  e.preventDefault();
}
defineExpose({
  leave: () => pointer.leave(),
  /** Ask for what is wished for once more. */
  ask: () => ask(true),
  frame,
  size,
  target,
  waiting,
  pending,
  focus: () => stage.value?.focus(),
});
defineSlots<{ default(given: { frame: Frame; size: Size; shot: Shot | null }): unknown }>();
</script>

<template>
  <div
    ref="stage"
    class="stage"
    :class="{ zoomed: seen.zoom }"
    tabindex="0"
    role="group"
    :aria-label="label"
    @pointerdown="pointer.down($event)"
    @pointermove="pointer.move($event)"
    @pointerup="pointer.up($event)"
    @pointercancel="pointer.cancelled($event)"
    @pointerleave="pointer.left()"
    @wheel.prevent="pointer.wheel($event)"
    @keydown="key"
  >
    <canvas ref="canvas" :style="turned ? { transform: turned } : undefined" />
    <slot :frame="frame" :size="size" :shot="shot" />
  </div>
</template>

<style scoped>
.stage {
  position: relative;
  overflow: hidden;
  background: var(--surround);
  min-width: 0;
  height: 100%;
  touch-action: none;
}
.stage.zoomed {
  cursor: grab;
}
.stage:focus-visible {
  outline-offset: -2px;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
</style>
