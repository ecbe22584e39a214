<script setup lang="ts">
/** Frames large: one whole, or several side by side at 100 % on the same spot. Pointing at a place
 * moves all of them there and orders them by how sharp they are. */
import { computed, onBeforeUnmount, onMounted, reactive, ref, watch } from "vue";

import { client, need } from "../../api/client";
import { exposure } from "../../model/facts";
import type { Spot } from "../../model/plane";
import { useRatio } from "../../picture/ratio";
import { clipped, HEAPS, type Frame, type Sorting } from "../../model/gather";
import StoppedMark from "./StoppedMark.vue";

const props = defineProps<{ outing: string; frames: Frame[]; close: boolean }>();
const emit = defineEmits<{
  sort: [frame: Frame, sorting: Sorting];
  stopped: [frame: Frame, at: Spot | null];
  begin: [frame: Frame];
}>();

const stage = ref<HTMLDivElement>();
const ratio = useRatio();
const size = reactive({ width: 900, height: 600 });
const spot = reactive({ x: 0.5, y: 0.5 });
const ranks = ref<Record<string, number>>({});
const waiting = ref(false);
/** Which picture of each frame has come; until it is the one asked for, a line says so. */
const come = ref<Record<string, string>>({});
const problem = ref("");
const whole = computed(() => props.frames.length === 1 && !props.close);
const columns = computed(() => Math.min(props.frames.length, props.frames.length > 3 ? 2 : 3));
const rows = computed(() => Math.ceil(props.frames.length / columns.value));
const pane = computed(() => ({
  width: Math.floor(size.width / columns.value) - 8,
  height: Math.floor(size.height / rows.value) - 52,
}));
/** The sharpest at the place pointed at comes first. */
const ordered = computed(() =>
  [...props.frames].sort((a, b) => (ranks.value[a.id] ?? 99) - (ranks.value[b.id] ?? 99)),
);

function source(frame: Frame): string {
  if (whole.value)
    return `/api/frames/${frame.id}/thumbnail?long=${Math.min(Math.round(1600 * ratio.value), 2400)}`;
  const [width, height] = [pane.value.width, pane.value.height].map((v) => Math.round(v * ratio.value)) as [
    number,
    number,
  ];
  const at = `x=${spot.x.toFixed(5)}&y=${spot.y.toFixed(5)}`;
  return `/api/frames/${frame.id}/place?${at}&width=${Math.max(width, 16)}&height=${Math.max(height, 16)}`;
}
function developed(frame: Frame): [number, number] {
  const [w = 1, h = 1] = (frame.info.developed_size as number[] | undefined) ?? [];
  return [w, h];
}

let held: { x: number; y: number; spot: { x: number; y: number }; moved: boolean } | null = null;
function down(e: PointerEvent): void {
  if (whole.value || e.button !== 0) return;
  held = { x: e.clientX, y: e.clientY, spot: { ...spot }, moved: false };
  (e.currentTarget as Element).setPointerCapture(e.pointerId);
}
function cancelled(): void {
  if (held) Object.assign(spot, held.spot);
  held = null;
}
function place(frame: Frame, e: PointerEvent): void {
  if (!held) return;
  const dx = e.clientX - held.x;
  const dy = e.clientY - held.y;
  if (Math.hypot(dx, dy) < 4) return;
  held.moved = true;
  const [w, h] = developed(frame);
  spot.x = Math.min(1, Math.max(0, held.spot.x - (dx * ratio.value) / w));
  spot.y = Math.min(1, Math.max(0, held.spot.y - (dy * ratio.value) / h));
}
function up(frame: Frame, e: PointerEvent): void {
  if (!held) return;
  if (!held.moved) {
    const box = (e.currentTarget as Element).getBoundingClientRect();
    const [w, h] = developed(frame);
    spot.x = Math.min(1, Math.max(0, spot.x + ((e.clientX - box.left - box.width / 2) * ratio.value) / w));
    spot.y = Math.min(1, Math.max(0, spot.y + ((e.clientY - box.top - box.height / 2) * ratio.value) / h));
    void rank();
  }
  held = null;
}
async function rank(): Promise<void> {
  if (props.frames.length < 2) return;
  waiting.value = true;
  problem.value = "";
  try {
    const got = await need(
      client.POST("/api/outings/{outing_id}/sharpness", {
        params: { path: { outing_id: props.outing } },
        body: { frames: props.frames.map((f) => f.id), ...spot },
      }),
    );
    ranks.value = Object.fromEntries(got.map((g, n) => [g.frame, n + 1]));
  } catch (error) {
    problem.value = (error as Error).message;
  } finally {
    waiting.value = false;
  }
}
watch(
  () => props.frames.map((f) => f.id).join(),
  () => (ranks.value = {}),
);
let watcher: ResizeObserver;
onMounted(() => {
  watcher = new ResizeObserver(([e]) =>
    Object.assign(size, {
      width: Math.floor(e!.contentRect.width),
      height: Math.floor(e!.contentRect.height),
    }),
  );
  watcher.observe(stage.value!);
});
onBeforeUnmount(() => watcher.disconnect());
</script>

<template>
  <section class="compare" aria-label="Frames large">
    <p v-if="frames.length > 1" class="hint quiet">
      The same spot at 100 %. Drag to move all; click a place to order them by sharpness there.
      <b v-if="waiting" role="status">measuring …</b>
    </p>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <div ref="stage" class="stage" :style="{ gridTemplateColumns: `repeat(${columns}, 1fr)` }">
      <figure v-for="frame in ordered" :key="frame.id">
        <div class="seen">
          <img
            :src="source(frame)"
            :srcset="whole ? undefined : `${source(frame)} ${ratio}x`"
            :alt="frame.name"
            draggable="false"
            :class="{ close: !whole }"
            @load="come[frame.id] = source(frame)"
            @pointerdown="down"
            @pointermove="place(frame, $event)"
            @pointerup="up(frame, $event)"
            @pointercancel="cancelled"
          />
          <StoppedMark v-if="whole" :frame="frame" @stopped="(at) => emit('stopped', frame, at)" />
        </div>
        <figcaption>
          <b>{{ frame.name }}</b>
          <span v-if="come[frame.id] !== source(frame)" class="quiet" role="status"
            >reading it at full size …</span
          >
          <span v-if="ranks[frame.id] === 1" class="rank">sharpest here</span>
          <span class="quiet numeral">{{ exposure(frame.info) }} · {{ clipped(frame.info) }}</span>
          <span class="heaps" role="group" :aria-label="`Where ${frame.name} goes`">
            <button
              v-for="heap in HEAPS"
              :key="heap.key"
              class="plain"
              type="button"
              :class="{ on: frame.sorting === heap.sorting }"
              :aria-pressed="frame.sorting === heap.sorting"
              @click="emit('sort', frame, heap.sorting)"
            >
              {{ heap.label }}
            </button>
            <button class="plain" type="button" @click="emit('begin', frame)">New scene</button>
          </span>
        </figcaption>
      </figure>
    </div>
  </section>
</template>

<style scoped>
.compare {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  background: var(--surround);
}
.hint {
  padding: 4px 12px;
  background: var(--panel);
}
.stage {
  flex: 1;
  min-height: 0;
  display: grid;
  gap: 4px;
  padding: 4px;
}
figure {
  margin: 0;
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
img {
  flex: 1;
  min-width: 0;
  min-height: 0;
  object-fit: contain;
  user-select: none;
  touch-action: none;
}
img.close {
  object-fit: none;
  cursor: grab;
}
.seen {
  position: relative;
  display: flex;
  flex: 1;
  min-height: 0;
}
figcaption {
  background: var(--panel);
  padding: 2px 8px;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: center;
}
.heaps {
  margin-left: auto;
}
.rank {
  color: var(--accent);
  font-weight: 600;
}
</style>
