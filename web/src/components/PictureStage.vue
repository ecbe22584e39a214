<script setup lang="ts">
/** The picture on its surround: always the newest answer, zoom and pan, masks, handles, values. */
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from "vue";

import { picture } from "../api/client";
import {
  centred,
  onPicture,
  onStage,
  placed,
  visible,
  wheeled,
  type Map,
  type Region,
  type Spot,
} from "../model/plane";
import { overlay, tintAgainst } from "../model/tint";
import { useBoxing } from "../composables/boxing";
import { useCarrying } from "../composables/carrying";
import { useLines } from "../composables/lines";
import { useMasks } from "../composables/masks";
import { usePainting } from "../composables/painting";
import { usePicking } from "../composables/picking";
import { useReading } from "../composables/reading";
import { useTurning } from "../composables/turning";
import { Newest, nextNumber, windowId } from "../stores/pictures";
import { useScene } from "../stores/scene";
import { PUSH, useView } from "../stores/view";
import BordersCheck from "./BordersCheck.vue";
import LatchHandles from "./LatchHandles.vue";
import LineHandles from "./LineHandles.vue";
import EyeMarks from "./EyeMarks.vue";
import LoupePair from "./LoupePair.vue";
import MoveHandles from "./MoveHandles.vue";
import PickMarks from "./PickMarks.vue";
import TrimHandles from "./TrimHandles.vue";

const props = defineProps<{ peek: string }>();
const scene = useScene();
const view = useView();

const stage = ref<HTMLDivElement>();
const canvas = ref<HTMLCanvasElement>();
const size = ref({ width: 100, height: 100 });
const shot = shallowRef<{ bitmap: ImageBitmap; region: Region; state: string } | null>(null);
const frame = computed(() =>
  scene.plane
    ? placed(size.value, scene.plane, view.zoom, view.centre)
    : { left: 0, top: 0, width: 1, height: 1 },
);

/** Which latch's mask lies over the picture, if any. */
const shownLatch = computed(() => {
  if (view.comparing === "mask" && atGround.value) return "";
  if (view.comparing === "mask")
    return (
      scene.openLatch ?? scene.moves.find((m) => m.id === scene.openMove)?.latch ?? scene.latches[0]?.id ?? ""
    );
  if (view.comparing) return "";
  return props.peek || scene.openLatch || "";
});
const openMove = computed(() => scene.moves.find((m) => m.id === scene.openMove));
const comparison = computed(() => view.comparisons.find((c) => c.what === view.comparing)?.said ?? "");
const atGround = computed(() => view.station === "Ground");
/** Trim is worked on the whole picture, with what it cuts away. */
const trimming = computed(() => atGround.value && scene.openMove === "trim" && !view.comparing);
const plumbing = computed(() => atGround.value && scene.openMove === "plumb" && !view.comparing);
const judging = computed(
  () => atGround.value && (scene.openMove === "noise" || scene.openMove === "crispness"),
);
/** The picture itself, or what a check shows of it. While an end is moved, what clips shows. */
function showing(): "picture" | "limits" | "squint" {
  if (view.comparing === "limits" || (scene.dragging && scene.openMove === "ends" && atGround.value))
    return "limits";
  return view.comparing === "squint" ? "squint" : "picture";
}

/** An answer to a drag that takes longer than this, ms, is asked for at half its size until it is let go. */
const SLOW = 120;
let coarse = false;
watch(
  () => scene.dragging,
  () => (coarse = false),
);

function target(scale = 1): { region: Region; width: number; height: number } {
  const region = visible(size.value, frame.value);
  const dpr = (window.devicePixelRatio || 1) * scale;
  return {
    region,
    width: Math.max(1, Math.round((region[2] - region[0]) * frame.value.width * dpr)),
    height: Math.max(1, Math.round((region[3] - region[1]) * frame.value.height * dpr)),
  };
}

const TOOL_SAYS: Record<string, string> = {
  neutral: "Point at something that should be neutral grey.",
  upright: "Draw along something that should be upright.",
  level: "Draw along something that should be level.",
  horizon: "Draw along the horizon.",
  turn: "Drag the picture: the camera turns with it. Shift turns it finely.",
  sample: "Point at a colour the latch should hold.",
  unsample: "Point at a colour it should let go.",
  paint: "Paint what the latch holds. Shift paints straight on from the last stroke.",
  seek: "Paint along; only what looks like what the brush goes over is held.",
  erase: "Erase what was painted.",
  mark: "Paint over some of what belongs to it.",
  unmark: "Paint over some of what does not.",
  box: "Draw a rough box around it.",
  corner: "Click points around it, Shift for a sharp corner; click the first to end.",
  spare: "Point at a colour the move should spare; several may be pointed at.",
  hue: "Point at a colour this move should take hold of.",
  tone: "Point at a colour to take.",
  kin: "Point at what it should resemble.",
  wrong: "Point at what is wrong with the picture.",
};

/** True until the full answer to the last question is on the canvas. */
const pending = ref(false);
const pictures = new Newest<{
  bitmap: ImageBitmap;
  region: Region;
  state: string;
  full: boolean;
  whole: boolean;
  map: Map | null;
}>(
  (got) => {
    scene.notices.settle("picture");
    shot.value?.bitmap.close();
    shot.value = got;
    if (got.map && JSON.stringify(got.map) !== JSON.stringify(scene.map)) scene.map = got.map;
    view.waiting = got.full ? "" : "sharper in a moment";
    if (!got.whole) {
      view.waiting = "first look; the whole frame is being decoded";
      window.setTimeout(() => ask(true), 700);
    } else if (!got.full && !scene.dragging) settle();
    else pending.value = pictures.queued || !got.full;
    paint();
  },
  (error) => {
    pending.value = false;
    scene.notices.tell("picture", error);
  },
);
let settling = 0;

function settle(): void {
  window.clearTimeout(settling);
  settling = window.setTimeout(() => ask(true), 120);
}

function ask(full: boolean): void {
  if (!scene.opened || !scene.document || size.value.width < 50) return;
  window.clearTimeout(settling);
  const id = scene.opened.id;
  pending.value = true;
  pictures.ask(async () => {
    const at = target(coarse && scene.dragging ? 0.5 : 1);
    const body = {
      ...at, document: scene.shown(), full, view: `${windowId}/picture`, number: nextNumber(),
      untrimmed: trimming.value, push: view.comparing === "pushed" ? PUSH : 1, show: showing(),
    }; // prettier-ignore
    if (!shot.value) view.waiting = "developing";
    const asked = performance.now();
    const got = await picture(`/api/scenes/${id}/picture`, body);
    if (!got) return null;
    if (scene.dragging && performance.now() - asked > SLOW) coarse = true;
    return {
      bitmap: await createImageBitmap(got.blob), region: at.region, full, whole: got.whole,
      state: view.comparing, map: got.map,
    }; // prettier-ignore
  }, full);
}

const { mask, waiting: masking, ask: askMask } = useMasks(() => shownLatch.value, target, paint);

/** Draw the picture, and over it the mask, where their regions lie now. */
function paint(): void {
  const surface = canvas.value;
  if (!surface) return;
  const dpr = window.devicePixelRatio || 1;
  surface.width = Math.round(size.value.width * dpr);
  surface.height = Math.round(size.value.height * dpr);
  const pen = surface.getContext("2d", { willReadFrequently: true })!;
  pen.scale(dpr, dpr);
  pen.imageSmoothingQuality = "high";
  const f = frame.value;
  const place = (r: Region) =>
    [
      f.left + r[0] * f.width,
      f.top + r[1] * f.height,
      (r[2] - r[0]) * f.width,
      (r[3] - r[1]) * f.height,
    ] as const;
  if (shot.value) pen.drawImage(shot.value.bitmap, ...place(shot.value.region));
  const g = mask.value;
  if (g) {
    const one = new Uint8ClampedArray(g.data.width * g.data.height);
    for (let i = 0; i < one.length; i++) one[i] = g.data.data[4 * i]!;
    const under = new OffscreenCanvas(g.data.width, g.data.height).getContext("2d")!;
    if (shot.value) under.drawImage(shot.value.bitmap, 0, 0, g.data.width, g.data.height);
    const tint = tintAgainst(under.getImageData(0, 0, g.data.width, g.data.height).data, one);
    // what a rung is felt by is only outlined while it is carried: its light is looked at
    const look = view.zone && scene.dragging ? "contour" : view.look;
    under.putImageData(new ImageData(overlay(one, g.data.width, look, tint), g.data.width), 0, 0);
    pen.drawImage(under.canvas, ...place(g.region));
  }
}

// panning, wheel, and reading values
let pan: { x: number; y: number; centre: Spot } | null = null;
function toPicture(e: { clientX: number; clientY: number }): Spot {
  const box = stage.value!.getBoundingClientRect();
  return onPicture(frame.value, { x: e.clientX - box.left, y: e.clientY - box.top });
}
const place = (e: { clientX: number; clientY: number }) => onStage(frame.value, toPicture(e));
const picking = usePicking(frame);
const reading = useReading();
const drawn = useLines(frame);
const { drawing, solve } = drawn;
const lines = computed(() => (plumbing.value ? drawn.lines() : []));
const brush = usePainting(frame, place);
const boxing = useBoxing(frame);
const carrying = useCarrying();
const turning = useTurning(frame);

/** Where the pointer is on the stage. */
const pointer = shallowRef<Spot | null>(null);

function down(e: PointerEvent): void {
  if (e.button === 1) {
    // the middle button pans, whatever is in hand
    e.preventDefault();
    stage.value!.setPointerCapture(e.pointerId);
    pan = { x: e.clientX, y: e.clientY, centre: { ...view.centre } };
    return;
  }
  view.taken = null;
  if (e.button !== 0 || picking.take(toPicture(e), e.shiftKey)) return;
  stage.value!.setPointerCapture(e.pointerId);
  if (brush.painting.value) brush.begin(e);
  else if (turning.begin(place(e))) return;
  else if (boxing.begin(place(e))) return;
  else if (view.tool) drawn.begin(place(e));
  else if (carrying.begin(e, toPicture(e))) return;
  else pan = { x: e.clientX, y: e.clientY, centre: { ...view.centre } };
}
function escaped(e: KeyboardEvent): void {
  if (
    e.key === "Escape" &&
    (drawn.cancel() || brush.cancel() || boxing.cancel() || carrying.cancel() || turning.cancel())
  )
    e.stopPropagation();
}
/** The system took the pointer away: nothing was drawn, nothing carried. */
function cancelled(): void {
  pan = null;
  for (const one of [drawn, brush, boxing, carrying, turning]) one.cancel();
}
function move(e: PointerEvent): void {
  pointer.value = place(e);
  if (pan) return panned(e);
  if (brush.painting.value) brush.move(e);
  if (turning.move(place(e), e.shiftKey)) return;
  if (drawn.move(place(e)) || boxing.move(place(e)) || carrying.move(e)) return;
  reading.read(toPicture(e));
}
function panned(e: PointerEvent): void {
  if (!pan || !view.zoom) return reading.read(toPicture(e));
  view.centre = {
    x: Math.min(1, Math.max(0, pan.centre.x - (e.clientX - pan.x) / frame.value.width)),
    y: Math.min(1, Math.max(0, pan.centre.y - (e.clientY - pan.y) / frame.value.height)),
  };
}
function up(): void {
  pan = null;
  carrying.end();
  void brush.end();
  void turning.end();
  void drawn.end();
  void boxing.end();
}
function left(): void {
  reading.forget();
  pointer.value = null;
  brush.cursor.value = null;
}
/** Where a tool would point, moved by the arrow keys. */
const aim = ref<Spot | null>(null);
const STEPS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
function aiming(e: KeyboardEvent): void {
  if (e.target !== stage.value || !view.tool) return;
  const step = STEPS[e.key];
  if (step) {
    const from = aim.value ?? { x: 0.5, y: 0.5 };
    const by = e.shiftKey ? 0.002 : 0.02;
    const within = (v: number) => Math.min(1, Math.max(0, v));
    aim.value = { x: within(from.x + step[0] * by), y: within(from.y + step[1] * by) };
    reading.read(aim.value);
    e.preventDefault();
  } else if (e.key === "Enter") {
    if (view.tool === "box") boxing.inTheMiddle();
    else if (!picking.take(aim.value ?? { x: 0.5, y: 0.5 }, e.shiftKey)) drawn.inTheMiddle();
  }
}
function wheel(e: WheelEvent): void {
  if (!scene.plane) return;
  const fitted = placed(size.value, scene.plane, 0, view.centre).width / scene.plane.width;
  const lines = e.deltaMode === WheelEvent.DOM_DELTA_LINE ? 16 : 1;
  zoomTo(wheeled(view.zoom, fitted, e.deltaY * lines), toPicture(e), place(e));
}
/** Zoom so that a place of the picture comes to lie at a place of the stage. */
function zoomTo(zoom: number, at: Spot, on: Spot): void {
  if (zoom === view.zoom || !scene.plane) return;
  view.centre = centred(size.value, scene.plane, zoom, at, on);
  view.zoom = zoom;
}
let watcher: ResizeObserver;
onMounted(() => {
  window.addEventListener("keydown", escaped, true);
  watcher = new ResizeObserver(() => {
    const box = stage.value!.getBoundingClientRect();
    size.value = { width: Math.round(box.width), height: Math.round(box.height) };
  });
  watcher.observe(stage.value!);
});
onBeforeUnmount(() => {
  window.removeEventListener("keydown", escaped, true);
  watcher.disconnect();
  shot.value?.bitmap.close();
});
watch([() => scene.tick, () => view.comparing, () => scene.opened?.id, trimming], () => ask(false));
watch([frame, size], () => {
  paint();
  ask(false);
  settle();
  askMask();
});
watch(() => view.look, paint);
watch(
  () => view.tool,
  () => (aim.value = null),
);
</script>

<template>
  <div
    ref="stage"
    class="stage"
    :class="[view.surround, { pick: view.tool, zoomed: view.zoom, carry: carrying.line.value }]"
    tabindex="0"
    role="group"
    :aria-label="`The picture, ${view.zoom ? `${Math.round(view.zoom * 100)} %` : 'whole'}${comparison ? `: ${comparison}` : ''}`"
    :data-state="view.waiting || masking || pending || drawing || scene.finding ? 'waiting' : 'current'"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="cancelled"
    @keydown="aiming"
    @pointerleave="left"
    @wheel.prevent="wheel"
  >
    <canvas ref="canvas" />
    <svg v-if="scene.latch && !view.comparing" class="handles">
      <LatchHandles :frame="frame" :drawing="boxing.box.value" />
    </svg>
    <svg v-if="openMove && !scene.latch && !view.comparing && !view.tool" class="handles">
      <MoveHandles :move="openMove" :frame="frame" />
    </svg>
    <svg v-if="brush.painting.value" class="handles">
      <polyline
        v-if="brush.path.value.length"
        class="stroke"
        :points="brush.path.value.map((p) => `${p.x},${p.y}`).join(' ')"
        :stroke-width="2 * brush.radius.value"
      />
      <template v-if="brush.cursor.value">
        <circle
          class="brush dark"
          :cx="brush.cursor.value.x"
          :cy="brush.cursor.value.y"
          :r="brush.radius.value"
        />
        <circle class="brush" :cx="brush.cursor.value.x" :cy="brush.cursor.value.y" :r="brush.radius.value" />
      </template>
    </svg>
    <svg v-if="view.wrong && !view.comparing" class="handles">
      <circle
        v-for="dark in [true, false]"
        :key="`${dark}`"
        class="brush"
        :class="{ dark }"
        :cx="onStage(frame, view.wrong).x"
        :cy="onStage(frame, view.wrong).y"
        r="13"
      />
    </svg>
    <PickMarks :frame="frame" :pointer="pointer" />
    <svg v-if="aim && view.tool" class="handles">
      <path class="aim" :d="`M${onStage(frame, aim).x - 12} ${onStage(frame, aim).y}h24m-12 -12v24`" />
    </svg>
    <svg v-if="plumbing || drawing" class="handles">
      <LineHandles :lines="lines" :frame="frame" :drawing="drawing" @moved="solve('A plumb line moved')" />
    </svg>
    <svg v-if="trimming && scene.map?.kept?.length && shot?.state === ''" class="handles">
      <TrimHandles v-if="!view.tool" :frame="frame" />
    </svg>
    <LoupePair v-if="judging && view.zoom === 0" :frame="frame" :stage="size" />
    <EyeMarks
      v-if="view.comparing === 'squint' || view.comparing === 'halos'"
      :what="view.comparing"
      :frame="frame"
    />
    <BordersCheck v-if="view.comparing === 'borders'" :stage="size" />
    <p v-if="comparison" class="named">{{ comparison }}</p>
    <p v-if="view.tool" class="named">{{ TOOL_SAYS[view.tool] }} Escape leaves it.</p>
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
.stage.white {
  background: #fff;
}
.stage.black {
  background: #000;
}
.stage.zoomed {
  cursor: grab;
}
.stage.carry {
  cursor: ns-resize;
}
.stage.pick {
  cursor: crosshair;
}
.stage:focus-visible {
  outline-offset: -2px;
}
canvas,
.handles {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.handles {
  pointer-events: none;
}
.stroke {
  fill: none;
  stroke: rgb(255 255 255 / 35%);
  stroke-linecap: round;
  stroke-linejoin: round;
}
.aim {
  stroke: #fff;
  stroke-width: 1.5;
  filter: drop-shadow(0 0 1px #000);
}
.brush {
  fill: none;
  stroke: #fff;
}
.brush.dark {
  stroke: rgb(0 0 0 / 50%);
  stroke-width: 3;
}
.named {
  position: absolute;
  left: 50%;
  bottom: 6px;
  transform: translateX(-50%);
  width: max-content;
  max-width: 94%;
  background: #f4f4f4;
  padding: 2px 10px;
  border-radius: 3px;
  pointer-events: none;
}
</style>
