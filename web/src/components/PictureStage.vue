<script setup lang="ts">
/** The picture on its surround: always the newest answer, zoom and pan, masks, handles, values. */
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from "vue";

import { client, need, picture } from "../api/client";
import { placed, visible, type Region, type Spot } from "../model/plane";
import { overlay, tintAgainst } from "../model/tint";
import { Newest, nextNumber, windowId } from "../stores/pictures";
import { useScene } from "../stores/scene";
import { COMPARISONS, useView } from "../stores/view";
import RampHandles from "./RampHandles.vue";

const props = defineProps<{ peek: string }>();
const scene = useScene();
const view = useView();

const stage = ref<HTMLDivElement>();
const canvas = ref<HTMLCanvasElement>();
const size = ref({ width: 100, height: 100 });
const shot = shallowRef<{ bitmap: ImageBitmap; region: Region; state: string } | null>(null);
const grey = shallowRef<{ data: ImageData; region: Region; latch: string } | null>(null);
const frame = computed(() =>
  scene.plane
    ? placed(size.value, scene.plane, view.zoom, view.centre)
    : { left: 0, top: 0, width: 1, height: 1 },
);

/** Which latch's mask lies over the picture, if any. */
const shownLatch = computed(() => {
  if (view.comparing === "mask")
    return (
      scene.openLatch ?? scene.moves.find((m) => m.id === scene.openMove)?.latch ?? scene.latches[0]?.id ?? ""
    );
  if (view.comparing) return "";
  return props.peek || scene.openLatch || "";
});
const ramps = computed(() =>
  (scene.latch?.ingredients ?? []).filter((i) => i.kind === "ramp" && i.on !== false),
);
const comparison = computed(() => COMPARISONS.find((c) => c.what === view.comparing)?.said ?? "");

function target(): { region: Region; width: number; height: number } {
  const region = visible(size.value, frame.value);
  const dpr = window.devicePixelRatio || 1;
  return {
    region,
    width: Math.max(1, Math.round((region[2] - region[0]) * frame.value.width * dpr)),
    height: Math.max(1, Math.round((region[3] - region[1]) * frame.value.height * dpr)),
  };
}

/** True until the full answer to the last question is on the canvas. */
const pending = ref(false);
const pictures = new Newest<{
  bitmap: ImageBitmap;
  region: Region;
  state: string;
  full: boolean;
  whole: boolean;
}>(
  (got) => {
    shot.value?.bitmap.close();
    shot.value = got;
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
    scene.problem = error.message;
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
    const at = target();
    const body = { ...at, document: scene.shown(), full, view: `${windowId}/picture`, number: nextNumber() };
    if (!shot.value) view.waiting = "developing";
    const got = await picture(`/api/scenes/${id}/picture`, body);
    if (!got) return null;
    return {
      bitmap: await createImageBitmap(got.blob), region: at.region, full, whole: got.whole,
      state: view.comparing,
    }; // prettier-ignore
  }, full);
}

const masking = ref(false);
const masks = new Newest<{ data: ImageData; region: Region; latch: string }>(
  (got) => {
    grey.value = got;
    masking.value = false;
    paint();
  },
  (error) => (scene.problem = error.message),
);

function askMask(): void {
  const latch = shownLatch.value;
  if (!latch || !scene.opened) {
    grey.value = null;
    masking.value = false;
    paint();
    return;
  }
  const id = scene.opened.id;
  masking.value = true;
  masks.ask(async () => {
    const at = target();
    const body = { ...at, document: scene.current(), latch, view: `${windowId}/mask`, number: nextNumber() };
    const got = await picture(`/api/scenes/${id}/mask`, body);
    if (!got) return null;
    const bitmap = await createImageBitmap(got.blob);
    const work = new OffscreenCanvas(bitmap.width, bitmap.height);
    const pen = work.getContext("2d")!;
    pen.drawImage(bitmap, 0, 0);
    return { data: pen.getImageData(0, 0, bitmap.width, bitmap.height), region: at.region, latch };
  });
}

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
  const g = grey.value;
  if (g && g.latch === shownLatch.value) {
    const one = new Uint8ClampedArray(g.data.width * g.data.height);
    for (let i = 0; i < one.length; i++) one[i] = g.data.data[4 * i]!;
    const under = new OffscreenCanvas(g.data.width, g.data.height).getContext("2d")!;
    if (shot.value) under.drawImage(shot.value.bitmap, 0, 0, g.data.width, g.data.height);
    const tint = tintAgainst(under.getImageData(0, 0, g.data.width, g.data.height).data, one);
    const look = scene.dragging && view.look === "grey" ? "grey" : view.look;
    under.putImageData(new ImageData(overlay(one, g.data.width, look, tint), g.data.width), 0, 0);
    pen.drawImage(under.canvas, ...place(g.region));
  }
}

// panning, wheel, and reading values
let pan: { x: number; y: number; centre: Spot } | null = null;
function toPicture(e: { clientX: number; clientY: number }): Spot {
  const box = stage.value!.getBoundingClientRect();
  return {
    x: (e.clientX - box.left - frame.value.left) / frame.value.width,
    y: (e.clientY - box.top - frame.value.top) / frame.value.height,
  };
}
async function down(e: PointerEvent): Promise<void> {
  if (e.button !== 0) return;
  if (view.pointing === "neutral") return pickNeutral(toPicture(e));
  pan = { x: e.clientX, y: e.clientY, centre: { ...view.centre } };
  stage.value!.setPointerCapture(e.pointerId);
}
async function pickNeutral(at: Spot): Promise<void> {
  view.pointing = "";
  try {
    const light = await need(
      client.POST("/api/scenes/{scene_id}/neutral", {
        params: { path: { scene_id: scene.opened!.id } },
        body: { document: scene.current() as never, ...at },
      }),
    );
    Object.assign(scene.document!.ground!.colour_of_light!.params!, light);
    await scene.commit("Colour of light picked");
  } catch (error) {
    scene.problem = (error as Error).message;
  }
}
function move(e: PointerEvent): void {
  if (pan && view.zoom) {
    view.centre = {
      x: Math.min(1, Math.max(0, pan.centre.x - (e.clientX - pan.x) / frame.value.width)),
      y: Math.min(1, Math.max(0, pan.centre.y - (e.clientY - pan.y) / frame.value.height)),
    };
    return;
  }
  readSoon(toPicture(e));
}
function wheel(e: WheelEvent): void {
  const at = toPicture(e);
  zoomTo(e.deltaY < 0 ? (view.zoom === 0 ? 1 : 2) : view.zoom === 2 ? 1 : 0, at);
}
function zoomTo(zoom: number, at: Spot): void {
  if (zoom === view.zoom) return;
  view.centre = { x: Math.min(1, Math.max(0, at.x)), y: Math.min(1, Math.max(0, at.y)) };
  view.zoom = zoom;
}
const spots = new Newest<string>(
  (said) => (view.spot = said),
  () => (view.spot = ""),
);
let reading = 0;
function readSoon(at: Spot): void {
  window.clearTimeout(reading);
  if (at.x < 0 || at.y < 0 || at.x > 1 || at.y > 1) {
    view.spot = "";
    return;
  }
  reading = window.setTimeout(() => {
    const id = scene.opened?.id;
    if (!id || scene.dragging) return;
    spots.ask(async () => {
      const s = await need(
        client.POST("/api/scenes/{scene_id}/spot", {
          params: { path: { scene_id: id } },
          body: { document: scene.current() as never, ...at },
        }),
      );
      const stops = (v: number) => `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1)}`;
      return `${stops(s.now)} stops, prints ${s.words} (was ${stops(s.start)})`;
    });
  }, 90);
}

let watcher: ResizeObserver;
onMounted(() => {
  watcher = new ResizeObserver(() => {
    const box = stage.value!.getBoundingClientRect();
    size.value = { width: Math.round(box.width), height: Math.round(box.height) };
  });
  watcher.observe(stage.value!);
});
onBeforeUnmount(() => {
  watcher.disconnect();
  shot.value?.bitmap.close();
});
watch([() => scene.tick, () => view.comparing, () => scene.opened?.id], () => ask(false));
watch([frame, size], () => {
  paint();
  ask(false);
  settle();
  askMask();
});
watch([() => scene.tick, shownLatch], askMask);
watch(() => view.look, paint);
defineExpose({ zoomTo });
</script>

<template>
  <div
    ref="stage"
    class="stage"
    :class="[view.surround, { pick: view.pointing, zoomed: view.zoom }]"
    tabindex="0"
    role="group"
    :aria-label="`The picture, ${view.zoom ? `${view.zoom * 100} %` : 'whole'}${comparison ? `: ${comparison}` : ''}`"
    :data-state="view.waiting || masking || pending ? 'waiting' : 'current'"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="pan = null"
    @pointerleave="view.spot = ''"
    @wheel.prevent="wheel"
  >
    <canvas ref="canvas" />
    <svg v-if="ramps.length && !view.comparing" class="handles">
      <RampHandles v-for="r in ramps" :key="r.id" :line="r" :frame="frame" />
    </svg>
    <p v-if="comparison" class="named">{{ comparison }}</p>
    <p v-if="view.pointing" class="named">
      Point at something that should be neutral grey. Escape leaves it.
    </p>
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
.named {
  position: absolute;
  left: 50%;
  bottom: 6px;
  transform: translateX(-50%);
  background: #f4f4f4;
  padding: 2px 10px;
  border-radius: 3px;
  pointer-events: none;
}
</style>
