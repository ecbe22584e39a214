<script setup lang="ts">
/** The field camera on its cable: viewfinder with its ladder, what is set, and the release. */
import { useLocalStorage } from "@vueuse/core";
import { ElButton, ElProgress } from "element-plus";
import { computed, onBeforeUnmount, onMounted, reactive, ref, shallowRef, watch } from "vue";

import { client, need, needNewest, type Schemas } from "../../api/client";
import { useJob } from "../../composables/job";
import { Newest, nextNumber, windowId } from "../../stores/pictures";
import ChoiceBox from "../../ui/ChoiceBox.vue";

const props = defineProps<{ outing: string }>();
const emit = defineEmits<{ arrived: []; close: [] }>();

const offer = shallowRef<Schemas["Offer"] | null>(null);
const seen = shallowRef<Schemas["Viewfinder"] | null>(null);
const said = ref("");
const looking = ref(false);
/** As it was set last, on this machine. */
const last = useLocalStorage("sun-latch-camera", {
  viewpoint: "stack", time: "evening", mode: "single", focal_mm: 26, seconds: 1 / 250, f_number: 8, iso: 100,
  frames: 1, step: 2, turn: 0, tilt: 0,
}); // prettier-ignore
const want = reactive({ ...last.value });
watch(want, (now) => (last.value = { ...now }));
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
const words = (of: Record<string, string>) => Object.entries(of).map(([value, label]) => ({ value, label }));
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
      <span>Viewpoint</span>
      <ChoiceBox
        label="Viewpoint"
        :value="want.viewpoint"
        :options="words(offer.viewpoints)"
        @choose="want.viewpoint = $event"
      />
      <span>Light</span>
      <ChoiceBox
        label="Light"
        :value="want.time"
        :options="words(offer.times)"
        @choose="want.time = $event"
      />
      <label for="fc-turn">Pan, tilt</label>
      <span class="two">
        <input
          id="fc-turn"
          v-model.number="want.turn"
          class="boxed"
          type="number"
          step="5"
          :min="offer.limits.turn?.low"
          :max="offer.limits.turn?.high"
          aria-label="Pan, degrees"
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
      <span>Shutter</span>
      <ChoiceBox
        label="Shutter"
        :value="`${want.seconds}`"
        :options="SHUTTERS.map((s) => ({ value: `${s}`, label: shutter(s) }))"
        @choose="want.seconds = Number($event)"
      />
      <span>Aperture, ISO</span>
      <span class="two">
        <ChoiceBox
          label="Aperture"
          :value="`${want.f_number}`"
          :options="APERTURES.map((f) => ({ value: `${f}`, label: `f/${f}` }))"
          @choose="want.f_number = Number($event)"
        />
        <ChoiceBox
          label="ISO"
          :value="`${want.iso}`"
          :options="SPEEDS.map((i) => ({ value: `${i}`, label: `${i}` }))"
          @choose="want.iso = Number($event)"
        />
      </span>
      <span>Shooting mode</span>
      <ChoiceBox
        label="Shooting mode"
        :value="want.mode"
        :options="words(offer.modes)"
        @choose="want.mode = $event as typeof want.mode"
      />
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
