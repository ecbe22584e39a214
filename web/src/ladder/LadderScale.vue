<script setup lang="ts">
/** The ladder: light in stops up the side of the picture, two wings, and the meeting between them. */
import { useMediaQuery } from "@vueuse/core";
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";

import { useKeeps } from "../stores/keeps";
import { useProof } from "../stores/proof";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import LadderEnds from "./LadderEnds.vue";
import LadderFan from "./LadderFan.vue";
import LadderRungs from "./LadderRungs.vue";
import MeetingHead from "./MeetingHead.vue";
import { useLadder } from "./reading";
import WingPick from "./WingPick.vue";

const scene = useScene();
const view = useView();
const keeps = useKeeps();
const proof = useProof();
const box = ref<HTMLDivElement>();
const room = ref(600);
const chosen = ref<[string, string]>(["", ""]);

const WIDTH = 150;
const MIDDLE = 75;
const SPINE = 30;
/** What of its width is left on narrow windows: the spine, and what one takes hold of. */
const CROP = 54;
/** Room above the highest and below the lowest rung for its label, px. */
const MARGIN = 12;
const wings = computed<string[]>(() => {
  const ids = scene.latches.map((l) => l.id as string);
  return chosen.value.map((id, n) => (ids.includes(id) ? id : (ids[n] ?? ""))).filter((id) => id !== "");
});
const encoded = (y: number) => (y > 0.0031308 ? 1.055 * y ** (1 / 2.4) - 0.055 : 12.92 * y);
function grey(v: number): string {
  const byte = Math.round(255 * v);
  return `rgb(${byte} ${byte} ${byte})`;
}
/** What is printed on, and what that holds. */
const onPaper = computed(() => {
  const l = view.station === "Proof" && !keeps.way ? proof.layout : null;
  if (l?.holds == null) return null;
  const [white, black] = (l.tone as number[]).map((y) => grey(encoded(y)));
  return { paper: l.paper!, ink: l.ink!, holds: l.holds, has: l.has ?? 0, white, black };
});
/** On narrow windows only its spine is there. */
const narrow = useMediaQuery("(max-width: 1199px)");
const { ladder, start, old } = useLadder(wings);
const paired = computed(
  () => !keeps.way && !onPaper.value && wings.value.length === 2 && (ladder.value?.wings.length ?? 0) === 2,
);

/** Rungs shown: both ends and one beyond, as many as fit at a pitch of at least 32 px. While an end
 * is dragged the scale holds still. */
const range = ref({ top: 5, bottom: -10 });
watch(
  [ladder, room],
  () => {
    const l = ladder.value;
    if (!l || scene.dragging) return;
    const fits = Math.max(8, Math.floor((room.value - 2 * MARGIN) / 32));
    const top = Math.max(4, Math.ceil(l.white) + 1);
    const bottom = Math.min(-7, Math.floor(l.black) - 1);
    range.value = { top, bottom: Math.max(bottom, top - fits) };
  },
  { immediate: true },
);
const pitch = computed(() =>
  Math.min(72, (room.value - 2 * MARGIN) / (range.value.top - range.value.bottom)),
);
const y = (stop: number) => MARGIN + (range.value.top - stop) * pitch.value;
const rungs = computed(() => {
  const out = [];
  for (let s = range.value.bottom; s <= range.value.top; s++) out.push(s);
  return out;
});
const stops = (v: number) => `${v > 0 ? "+" : v < 0 ? "−" : ""}${Math.abs(v)}`;

interface Bar {
  y: number;
  h: number;
  w: number;
}
function bars(values: number[], scale: number): Bar[] {
  const l = ladder.value!;
  return values
    .map((v, i) => ({
      stop: l.low + i / l.per_stop,
      w: Math.min(1, Math.sqrt(v / scale)) * (MIDDLE - SPINE / 2 - 2),
    }))
    .filter((b) => b.w > 0.4 && b.stop >= range.value.bottom && b.stop < range.value.top)
    .map((b) => ({ y: y(b.stop + 1 / l.per_stop), h: pitch.value / l.per_stop - 0.8, w: b.w }));
}
const sides = computed(() => {
  const l = ladder.value;
  if (!l) return { left: [] as Bar[], right: [] as Bar[] };
  const left = paired.value ? l.wings[0]!.bars : (start.value?.bars ?? l.bars);
  const right = paired.value ? l.wings[1]!.bars : l.bars;
  const scale = Math.max(...left, ...right, 1e-6);
  return { left: bars(left, scale), right: bars(right, scale) };
});
const wedge = computed(() => {
  const l = ladder.value;
  if (!l) return [];
  return rungs.value.map((s) => {
    const grey = Math.round((l.tones[s - l.low] ?? 0) * 255);
    return { y: y(s + 0.5), fill: `rgb(${grey} ${grey} ${grey})` };
  });
});
const meeting = computed(() => (paired.value ? (ladder.value?.meeting ?? null) : null));
const centres = computed(() => (paired.value ? ladder.value!.wings.map((w) => w.centre) : []));
/** An open line whose strands are drawn instead of the ends. */
const carried = computed(() =>
  scene.moves.find((m) => m.id === scene.openMove && (m.kind === "rungs" || m.kind === "curve")),
);
/** An open Fan, whose pictures lie beside the rungs. */
const fan = computed(() =>
  scene.latch?.ingredients.find((i) => i.id === scene.openIngredient && i.kind === "fan"),
);
const percent = (share: number) => `${(share * 100).toFixed(share > 0.0995 ? 0 : 1)} %`;
const clippedInFrame = computed(() => Math.max(...(ladder.value?.clipped_in_frame ?? [0])));

let watcher: ResizeObserver;
onMounted(() => {
  watcher = new ResizeObserver(([e]) => (room.value = e!.contentRect.height));
  watcher.observe(box.value!);
});
onBeforeUnmount(() => watcher.disconnect());
</script>

<template>
  <aside class="ladder" :class="{ narrow }" aria-label="Ladder">
    <div class="head">
      <template v-if="onPaper">
        <p class="quiet">On this paper</p>
        <p class="meeting numeral">{{ onPaper.holds.toFixed(1) }} stops</p>
        <p class="quiet">of {{ onPaper.has.toFixed(1) }} in the scene</p>
      </template>
      <p v-else-if="keeps.way" class="two">
        <span>{{ keeps.named }}</span><span>now</span>
      </p>
      <template v-else-if="scene.latches.length >= 2">
        <p>
          <WingPick :latch="wings[0]!" label="Left wing" @choose="chosen[0] = $event" /> over
          <WingPick :latch="wings[1]!" label="Right wing" @choose="chosen[1] = $event" />
        </p>
        <p class="meeting numeral" data-testid="meeting">
          {{ meeting === null ? "–" : `${meeting < 0 ? "−" : ""}${Math.abs(meeting).toFixed(1)} stops` }}
        </p>
        <MeetingHead v-if="view.station === 'Light'" :wings="wings" :distance="meeting" />
      </template>
      <p v-else class="two"><span>start</span><span>now</span></p>
    </div>
    <p v-if="old" class="old" role="status">out of date</p>
    <div ref="box" class="scale" :class="{ faded: old }">
      <svg
        :width="narrow ? CROP : WIDTH"
        :height="room"
        :viewBox="narrow ? `${MIDDLE - CROP / 2} 0 ${CROP} ${room}` : `0 0 ${WIDTH} ${room}`"
        role="group"
        :aria-label="`Light from ${range.bottom} to ${range.top} stops`"
      >
        <line
          v-for="s in rungs"
          :key="`r${s}`"
          x1="0"
          :x2="WIDTH"
          :y1="y(s)"
          :y2="y(s)"
          :class="s === 0 ? 'zero' : 'rung'"
        />
        <g v-if="!narrow" class="left">
          <rect
            v-for="(b, n) in sides.left"
            :key="n"
            :x="MIDDLE - SPINE / 2 - 1 - b.w"
            :y="b.y"
            :width="b.w"
            :height="b.h"
          />
        </g>
        <g v-if="!narrow" class="right">
          <rect
            v-for="(b, n) in sides.right"
            :key="n"
            :x="MIDDLE + SPINE / 2 + 1"
            :y="b.y"
            :width="b.w"
            :height="b.h"
          />
        </g>
        <rect
          v-for="(w, n) in wedge"
          :key="`w${n}`"
          :x="MIDDLE - SPINE / 2"
          :y="w.y"
          :width="SPINE"
          :height="pitch + 0.5"
          :fill="w.fill"
        />
        <text
          v-for="s in onPaper ? rungs.filter((r) => r < onPaper!.paper && r > onPaper!.ink) : rungs"
          :key="`t${s}`"
          :x="MIDDLE"
          :y="y(s) + 4"
          :class="(ladder?.tones[s - (ladder?.low ?? 0)] ?? 0) > 0.5 ? 'dark' : 'light'"
        >
          {{ stops(s) }}
        </text>
        <g v-if="centres.length === 2 && centres[0] !== null && centres[1] !== null" class="bracket">
          <path
            :d="`M${MIDDLE - SPINE / 2} ${y(centres[0]!)}H4V${y(centres[1]!)}M4 ${y(centres[1]!)}H${WIDTH - 4}M${MIDDLE + SPINE / 2} ${y(centres[1]!)}`"
          />
        </g>
        <g v-if="onPaper" class="notches">
          <rect
            :x="MIDDLE - SPINE / 2"
            y="0"
            :width="SPINE"
            :height="Math.max(0, y(onPaper.paper))"
            :fill="onPaper.white"
          />
          <rect
            :x="MIDDLE - SPINE / 2"
            :y="y(onPaper.ink)"
            :width="SPINE"
            :height="Math.max(0, room - y(onPaper.ink))"
            :fill="onPaper.black"
          />
          <path :d="`M${MIDDLE - SPINE / 2 - 6} ${y(onPaper.paper)}h${SPINE + 10}`" />
          <path :d="`M${MIDDLE - SPINE / 2 - 6} ${y(onPaper.ink)}h${SPINE + 10}`" />
          <text class="notch" :x="2" :y="y(onPaper.paper) + 4">paper</text>
          <text class="notch" :x="2" :y="y(onPaper.ink) + 4">ink</text>
        </g>
        <LadderRungs
          v-if="carried"
          :key="carried.id"
          :move="carried"
          :rungs="rungs"
          :y="y"
          :pitch="pitch"
          :width="WIDTH"
        />
        <LadderEnds v-else-if="ladder" :black="ladder.black" :white="ladder.white" :y="y" :pitch="pitch" />
      </svg>
      <LadderFan v-if="fan" :key="fan.id" :line="fan" :y="y" :room="room" />
    </div>
    <p class="spot numeral" aria-live="off">{{ view.spot }}</p>
    <dl class="foot numeral">
      <dt>clipped in the frame</dt>
      <dd>{{ percent(clippedInFrame) }}</dd>
      <dt>prints white</dt>
      <dd>{{ percent(ladder?.clipped_in_file ?? 0) }}</dd>
      <dt>prints black</dt>
      <dd>{{ percent(ladder?.black_in_file ?? 0) }}</dd>
    </dl>
  </aside>
</template>

<style scoped>
/* room for what the pointer reads, so that nothing moves when it does */
.spot {
  height: 45px;
  padding: 0 8px;
  font-size: 11px;
  line-height: 15px;
}
.old {
  padding: 0 8px;
  color: var(--ink-2);
  font-size: 12px;
}
.faded {
  opacity: 0.45;
}
.ladder {
  width: 166px;
  padding: 6px 8px;
  display: flex;
  flex-direction: column;
  border-left: 1px solid var(--line);
  height: 100%;
  overflow: hidden;
}
.narrow {
  width: 100%;
  padding: 6px 0;
  align-items: center;
}
.narrow :is(.head, .spot, .foot) {
  display: none;
}
.head {
  min-height: 40px;
  text-align: center;
}
.notches path {
  fill: none;
  stroke: var(--accent);
  stroke-width: 2;
}
svg text.notch {
  font-size: 11px;
  fill: var(--ink);
  stroke: var(--panel);
  stroke-width: 3px;
  paint-order: stroke;
  text-anchor: start;
}
.two {
  display: flex;
  justify-content: space-around;
  color: var(--ink-2);
}
.meeting {
  font-weight: 600;
  font-size: 22px;
  line-height: 28px;
}
.scale svg {
  display: block;
}
.scale {
  position: relative;
  overflow: hidden;
  flex: 1;
  min-height: 0;
}
.rung {
  stroke: var(--line-2);
}
.zero {
  stroke: var(--edge-2);
}
.left rect,
.right rect {
  fill: var(--dim);
}
.right rect {
  fill: var(--edge-2);
}
text {
  text-anchor: middle;
  font-size: 11px;
  font-variant-numeric: tabular-nums;
}
.dark {
  fill: var(--ink);
}
.light {
  fill: var(--leaf);
}
.bracket path {
  stroke: var(--accent);
  stroke-width: 1.5;
  fill: none;
}
.foot {
  display: grid;
  grid-template-columns: 1fr auto;
  margin: 0;
  padding-top: 4px;
  font-size: 11px;
  color: var(--ink-2);
}
.foot dd {
  margin: 0;
}
</style>
