<script setup lang="ts">
/** The field camera on its cable: viewfinder with its ladder, what is set, and the release. */
import { ElButton, ElProgress } from "element-plus";
import { computed, onBeforeUnmount, onMounted, reactive, ref, shallowRef, watch } from "vue";

import { client, need, needNewest, type Schemas } from "../api/client";
import { useJob } from "../composables/job";
import { Newest, nextNumber, windowId } from "../stores/pictures";

const props = defineProps<{ outing: string }>();
const emit = defineEmits<{ arrived: []; close: [] }>();

const offer = shallowRef<Schemas["Offer"] | null>(null);
const seen = shallowRef<Schemas["Viewfinder"] | null>(null);
const said = ref("");
const looking = ref(false);
const want = reactive({
  viewpoint: "stack", time: "evening", mode: "single", focal_mm: 26, seconds: 1 / 250, f_number: 8, iso: 100,
  frames: 1, step: 2, turn: 0, tilt: 0,
}); // prettier-ignore
const SHUTTERS = [
  1 / 2000,
  1 / 1000,
  1 / 500,
  1 / 250,
  1 / 125,
  1 / 60,
  1 / 30,
  1 / 15,
  1 / 8,
  0.25,
  0.5,
  1,
  2,
  4,
  8,
  15,
  30,
];
const APERTURES = [2.8, 4, 5.6, 8, 11, 16, 22];
const SPEEDS = [100, 200, 400, 800, 1600, 3200, 6400];
const shutter = (s: number) => (s < 0.3 ? `1/${Math.round(1 / s)} s` : `${s} s`);

const { job, problem, running, start, cancel } = useJob(
  () => emit("arrived"),
  () => emit("arrived"),
);

const looks = new Newest<Schemas["Viewfinder"]>(
  (got) => {
    seen.value = got;
    said.value = "";
    looking.value = looks.queued;
  },
  (error) => {
    said.value = error.message;
    looking.value = false;
  },
);
function look(): void {
  if (!offer.value) return;
  looking.value = true;
  looks.ask(async () => {
    const body = { ...want, view: windowId, number: nextNumber() };
    return needNewest(client.POST("/api/camera/look", { body }));
  });
}
let soon = 0;
watch(want, () => {
  window.clearTimeout(soon);
  soon = window.setTimeout(look, 250);
});
watch(
  () => want.viewpoint,
  (at) => Object.assign(want, { focal_mm: offer.value?.focal[at] ?? want.focal_mm, turn: 0, tilt: 0 }),
);
watch(
  () => want.mode,
  (mode) => {
    want.frames = offer.value?.frames[mode] ?? 1;
    if (mode === "long") Object.assign(want, { seconds: 8, f_number: 22 });
  },
);
function release(): void {
  const path = { outing_id: props.outing };
  void start(need(client.POST("/api/outings/{outing_id}/shoot", { params: { path }, body: { ...want } })));
}

/** Bars of the viewfinder's ladder, brightest on top. */
const bars = computed(() => {
  const l = seen.value?.ladder;
  if (!l) return [];
  const most = Math.max(...l.bars, 1e-6);
  return l.bars
    .map((v, i) => ({ w: Math.sqrt(v / most) * 34, stop: l.low + i / l.per_stop }))
    .filter((b) => b.stop >= -9 && b.stop < 4);
});
const clippedNow = computed(() => Math.max(...(seen.value?.ladder.clipped_in_frame ?? [0])) * 100);

onMounted(async () => {
  try {
    offer.value = await need(client.GET("/api/camera"));
    look();
  } catch (error) {
    said.value = (error as Error).message;
  }
});
onBeforeUnmount(() => window.clearTimeout(soon));
</script>

<template>
  <aside class="camera" aria-label="Field camera">
    <header>
      <h2>Field camera</h2>
      <span class="quiet">{{ offer ? "connected" : "connecting …" }}</span>
      <button class="plain" type="button" @click="emit('close')">Disconnect</button>
    </header>
    <div class="finder" :class="{ looking }" :aria-busy="looking">
      <img v-if="seen" :src="`data:image/jpeg;base64,${seen.picture}`" alt="What the viewfinder shows" />
      <svg v-if="seen" width="58" height="200" role="img" aria-label="Ladder of the viewfinder">
        <rect
          v-for="b in bars"
          :key="b.stop"
          x="0"
          :y="200 - ((b.stop + 9 + 1 / 3) / 13) * 200"
          :width="b.w"
          :height="200 / 13 / 3 - 0.6"
        />
        <template v-for="s in [-8, -6, -4, -2, 0, 2]" :key="s">
          <text x="54" :y="204 - ((s + 9) / 13) * 200">{{ s > 0 ? `+${s}` : s < 0 ? `−${-s}` : 0 }}</text>
        </template>
      </svg>
    </div>
    <p class="quiet numeral">
      {{ looking ? "looking …" : `clipped ${clippedNow.toFixed(1)} %` }}
    </p>
    <p v-if="said || problem" class="problem" role="alert">{{ said || problem }}</p>
    <div v-if="offer" class="grid">
      <label for="fc-where">Viewpoint</label>
      <select id="fc-where" v-model="want.viewpoint" class="boxed">
        <option v-for="(label, key) in offer.viewpoints" :key="key" :value="key">{{ label }}</option>
      </select>
      <label for="fc-time">Light</label>
      <select id="fc-time" v-model="want.time" class="boxed">
        <option v-for="(label, key) in offer.times" :key="key" :value="key">{{ label }}</option>
      </select>
      <label for="fc-turn">Turn, tilt</label>
      <span class="two">
        <input
          id="fc-turn"
          v-model.number="want.turn"
          class="boxed"
          type="number"
          step="5"
          :min="offer.limits.turn?.low"
          :max="offer.limits.turn?.high"
          aria-label="Turn, degrees"
        />
        <input
          v-model.number="want.tilt"
          class="boxed"
          type="number"
          step="2"
          :min="offer.limits.tilt?.low"
          :max="offer.limits.tilt?.high"
          aria-label="Tilt, degrees"
        />
        °
      </span>
      <label for="fc-focal">Focal length</label>
      <span class="two"
        ><input id="fc-focal" v-model.number="want.focal_mm" class="boxed" type="number" step="1" /> mm</span
      >
      <label for="fc-shutter">Shutter</label>
      <select id="fc-shutter" v-model.number="want.seconds" class="boxed">
        <option v-for="s in SHUTTERS" :key="s" :value="s">{{ shutter(s) }}</option>
      </select>
      <label for="fc-aperture">Aperture, ISO</label>
      <span class="two">
        <select id="fc-aperture" v-model.number="want.f_number" class="boxed">
          <option v-for="f in APERTURES" :key="f" :value="f">f/{{ f }}</option>
        </select>
        <select v-model.number="want.iso" class="boxed" aria-label="ISO">
          <option v-for="i in SPEEDS" :key="i" :value="i">{{ i }}</option>
        </select>
      </span>
      <label for="fc-mode">Take</label>
      <select id="fc-mode" v-model="want.mode" class="boxed">
        <option v-for="(label, key) in offer.modes" :key="key" :value="key">{{ label }}</option>
      </select>
      <template v-if="want.mode === 'bracket' || want.mode === 'sweep'">
        <label for="fc-frames">Frames</label>
        <span class="two">
          <input
            id="fc-frames"
            v-model.number="want.frames"
            class="boxed"
            type="number"
            :min="2"
            :max="offer.limits.frames?.high"
          />
          <template v-if="want.mode === 'bracket'">
            <input
              v-model.number="want.step"
              class="boxed"
              type="number"
              step="0.5"
              :min="offer.limits.step?.low"
              :max="offer.limits.step?.high"
              aria-label="Step, stops"
            />
            stops
          </template>
        </span>
      </template>
    </div>
    <ElButton type="primary" :disabled="!offer || running || !!said" @click="release">Release</ElButton>
    <div v-if="job && running" aria-live="polite">
      <ElProgress :percentage="Math.round(job.done * 100)" aria-label="Release" />
      <p class="quiet">{{ job.step }} <button class="plain" type="button" @click="cancel">Stop</button></p>
    </div>
    <p v-else-if="job" :class="{ problem: job.state === 'failed' }" role="status">{{ job.message }}</p>
  </aside>
</template>

<style scoped>
.camera {
  width: 312px;
  flex: none;
  border-left: 1px solid var(--line);
  padding: 10px 12px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  overflow: auto;
}
header {
  display: flex;
  align-items: baseline;
  gap: 8px;
}
header .plain {
  margin-left: auto;
}
h2 {
  font-weight: 600;
}
.finder {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 204px;
  background: var(--surround);
  padding: 2px;
}
.finder img {
  width: 222px;
  max-height: 200px;
  object-fit: contain;
}
.finder.looking img {
  opacity: 0.75;
}
.finder svg {
  background: var(--panel);
}
rect {
  fill: var(--dim);
}
text {
  font-size: 10px;
  text-anchor: end;
  fill: var(--ink);
}
.grid {
  display: grid;
  grid-template-columns: 96px 1fr;
  gap: 5px;
  align-items: center;
}
.grid .boxed {
  min-width: 0;
  width: 100%;
}
.two {
  display: flex;
  gap: 5px;
  align-items: center;
}
</style>
