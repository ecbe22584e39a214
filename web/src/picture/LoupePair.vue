<script setup lang="ts">
/** Two loupes at 100 %, each on a place of its own: the front and the back, judged together. */
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";

import { picture } from "../api/client";
import { useDrag } from "../composables/drag";
import { onStage, type Frame, type Region, type Spot } from "../model/plane";
import { useRatio } from "./ratio";
import { Newest, nextNumber, windowId } from "../stores/pictures";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

const props = defineProps<{ frame: Frame; stage: { width: number; height: number } }>();
const scene = useScene();
const view = useView();
const SIZE = { width: 260, height: 190 };
const ratio = useRatio();
/** What a loupe shows, px of the device. */
const px = computed(() => ({
  width: Math.round(SIZE.width * ratio.value),
  height: Math.round(SIZE.height * ratio.value),
}));
const canvases = ref<HTMLCanvasElement[]>([]);

/** What a loupe shows is of an earlier state: the last question was not answered. */
const old = ref([false, false]);
const asked = [0, 1].map(
  (n) =>
    new Newest<ImageBitmap>(
      (bitmap) => {
        old.value[n] = false;
        scene.notices.settle(`loupe ${n}`);
        canvases.value[n]?.getContext("2d")?.drawImage(bitmap, 0, 0, px.value.width, px.value.height);
        bitmap.close();
      },
      (error) => {
        old.value[n] = true;
        scene.notices.tell(`loupe ${n}`, error);
      },
    ),
);
function region(at: Spot): Region {
  const w = px.value.width / scene.plane!.width;
  const h = px.value.height / scene.plane!.height;
  const x = Math.min(Math.max(at.x - w / 2, 0), Math.max(1 - w, 0));
  const y = Math.min(Math.max(at.y - h / 2, 0), Math.max(1 - h, 0));
  return [x, y, Math.min(x + w, 1), Math.min(y + h, 1)];
}
function ask(): void {
  if (!scene.opened || !scene.plane) return;
  const id = scene.opened.id;
  view.loupes.forEach((at, n) =>
    asked[n]!.ask(async () => {
      const got = await picture(`/api/scenes/${id}/picture`, {
        document: scene.shown(),
        region: region(at),
        ...px.value,
        full: true,
        push: 1,
        view: `${windowId}/loupe-${n}`,
        number: nextNumber(),
      });
      return got ? await createImageBitmap(got.blob) : null;
    }),
  );
}
watch([() => scene.tick, () => view.loupes, () => view.comparing, () => scene.map, px], ask, { deep: true });
onMounted(ask);

const { down, move, up } = useDrag<{ n: number; at: Spot; by: number }>({
  begin(e) {
    const { n, by } = (e.currentTarget as HTMLElement).dataset as { n: string; by: string };
    return { n: Number(n), at: { ...view.loupes[Number(n) as 0 | 1] }, by: Number(by) };
  },
  move({ n, at, by }, _, dx, dy) {
    // on the picture the marker follows the pointer; inside the loupe the picture does
    const { width, height } = scene.plane!;
    const unit = by > 0 ? props.frame : { width: -width / ratio.value, height: -height / ratio.value };
    put(n, { x: at.x + dx / unit.width, y: at.y + dy / unit.height });
  },
  done: () => undefined,
});
function put(n: number, at: Spot): void {
  view.loupes[n as 0 | 1] = { x: Math.min(Math.max(at.x, 0), 1), y: Math.min(Math.max(at.y, 0), 1) };
}
function key(e: KeyboardEvent, n: number): void {
  const way: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1],
  }; // prettier-ignore
  const by = way[e.key];
  if (!by) return;
  e.preventDefault();
  e.stopPropagation();
  const at = view.loupes[n as 0 | 1];
  const step = e.shiftKey ? 0.002 : 0.02;
  put(n, { x: at.x + by[0] * step, y: at.y + by[1] * step });
}
onBeforeUnmount(() => view.letGo());
</script>

<template>
  <div class="pair">
    <canvas
      v-for="(_, n) in view.loupes"
      :key="n"
      ref="canvases"
      :class="{ old: old[n] }"
      :width="px.width"
      :height="px.height"
      :style="{ width: `${SIZE.width + 4}px`, height: `${SIZE.height + 4}px` }"
      tabindex="0"
      role="img"
      :aria-label="`Loupe ${n + 1} at 100 %${old[n] ? ', of before the last change' : ''}, arrows move it`"
      :data-n="n"
      data-by="-1"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @keydown="key($event, n)"
    />
  </div>
  <span
    v-for="(at, n) in view.loupes"
    :key="`m${n}`"
    class="marker"
    :style="{ left: `${onStage(frame, at).x - 9}px`, top: `${onStage(frame, at).y - 9}px` }"
    :data-n="n"
    data-by="1"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    >{{ n + 1 }}</span
  >
</template>

<style scoped>
.pair {
  position: absolute;
  left: 8px;
  bottom: 8px;
  display: flex;
  gap: 8px;
}
canvas {
  background: var(--edge-2);
  border: 2px solid var(--leaf);
  cursor: grab;
  touch-action: none;
}
canvas.old {
  opacity: 0.45;
}
.marker {
  position: absolute;
  width: 19px;
  height: 19px;
  line-height: 17px;
  text-align: center;
  font-size: 11px;
  background: rgb(244 244 244 / 85%);
  border: 1px solid var(--ink);
  border-radius: 2px;
  cursor: grab;
  touch-action: none;
  user-select: none;
}
</style>
