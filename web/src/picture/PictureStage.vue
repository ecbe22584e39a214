<script setup lang="ts">
/** The picture a scene is worked on: what is in hand, and what lies over it. */
import { useEventListener } from "@vueuse/core";
import { computed, ref, shallowRef, watch } from "vue";

import type { Refusal, SceneDocument } from "../api/client";
import { checkOf, toldOf } from "../checks";
import { useAiming } from "../composables/aiming";
import { useMasks } from "../composables/masks";
import { useReading } from "../composables/reading";
import { blamed } from "../model/blamed";
import { onPicture, onStage, type Frame, type Map, type Spot } from "../model/plane";
import type { Place } from "./pointer";
import PictureView from "./PictureView.vue";
import type { Shot, Wish } from "./shown";
import { useWatched } from "../stores/watched";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import type { Station } from "../stations/station";
import { toolsFor } from "../tools";
import type { Tool } from "../tools/tool";
import LatchHandles from "../latches/LatchHandles.vue";
import PickMarks from "./PickMarks.vue";
import WatchMarks from "./WatchMarks.vue";

const props = defineProps<{ station: Station }>();
const scene = useScene();
const view = useView();
const picture = ref<InstanceType<typeof PictureView>>();
const frame = computed<Frame>(() => picture.value?.frame ?? { left: 0, top: 0, width: 1, height: 1 });

const check = computed(() => checkOf(view.comparing));
const watched = useWatched();
const openMove = computed(() => scene.moves.find((m) => m.id === scene.openMove));

function documented(): Record<string, unknown> {
  const document = scene.shown();
  if (!without.value) return document;
  const left = JSON.parse(JSON.stringify(document)) as SceneDocument;
  blamed(left, without.value, [])?.off(left);
  return left;
}
/** What the station asks of the picture. */
const asks = computed(() => props.station.asks?.(check.value ?? null) ?? {});
/** What the colours that are shown mean: of a check, or of the one that Proof's own verb shows. */
const told = computed(() =>
  toldOf(
    check.value ?? ("proof" in asks.value ? checkOf(String(asks.value.proof)) : undefined),
    view.station,
  ),
);
const body = () => ({
  document: documented(),
  push: check.value?.push ?? 1,
  show: check.value?.shows ?? "picture",
  ...(check.value?.proof ? { proof: check.value.proof } : {}),
  ...asks.value,
});
const wish = shallowRef<Wish | null>(null);
watch(
  [() => scene.tick, () => view.comparing, () => scene.opened?.id, () => JSON.stringify(asks.value)],
  () => {
    const id = scene.opened?.id;
    wish.value =
      id && scene.document
        ? { path: `/api/scenes/${id}/picture`, view: "picture", body, state: view.comparing }
        : null;
  },
  { immediate: true },
);
const shownState = ref("");
/** The line without which the picture is shown: with it none can be made, and there was none before. */
const without = ref("");
watch(
  () => scene.tick,
  () => (without.value = ""),
);
function shown(shot: Shot): void {
  if (!without.value) scene.notices.settle("picture");
  shownState.value = shot.state;
  pictured = scene.opened?.id ?? "";
}
/** The scene of the picture that is in sight. */
let pictured = "";
/** No picture could be made: the last one stays, or where there is none of this scene, one without the line that is to
 * blame; which is named, and can be switched off. */
function failed(error: Refusal): void {
  const line = (error.body as { line?: string } | null)?.line ?? "";
  const labels = scene.vocabulary?.moves ?? [];
  const found = scene.document && !without.value ? blamed(scene.document, line, labels) : null;
  if (!found) return scene.notices.tell("picture", error);
  const instead = pictured !== scene.opened?.id;
  const said = `${found.name} cannot be shown${instead ? ", and is left out of the picture" : ""}. ${error.message}`;
  scene.notices.tell("picture", new Error(said), {
    words: `Switch off ${found.name}`,
    run() {
      found.off(scene.document!);
      scene.notices.settle("picture");
      void scene.commit(`Switch ${found.name} off`);
    },
  });
  if (!instead) return;
  without.value = line;
  picture.value?.ask();
}
function mapped(map: Map): void {
  if (JSON.stringify(map) !== JSON.stringify(scene.map)) scene.map = map;
}

/** Which latch's mask lies over the picture, if any. */
const shownLatch = computed(() => {
  if (view.comparing === "mask" && view.station !== "Ground")
    return scene.openLatch ?? openMove.value?.latch ?? scene.latches[0]?.id ?? "";
  return check.value ? "" : view.peek || scene.openLatch || "";
});
const masks = useMasks(shownLatch, () => picture.value!.target(1));
watch([frame, () => picture.value?.size], () => masks.ask());
// what a rung is felt by is only outlined while it is carried: its light is looked at
const mask = computed(() =>
  masks.mask.value
    ? { ...masks.mask.value, look: view.zone && scene.dragging ? ("contour" as const) : view.look }
    : null,
);

// what is in hand
const tools = toolsFor({ frame });
const tool = computed(() => tools[view.tool] ?? Object.values(tools).find((t) => t.ready?.()));
const cursor = computed(() => (view.tool ? (tool.value?.cursor ?? "crosshair") : tool.value?.cursor));
const reading = useReading();
/** Where the pointer is on the stage. */
const pointer = shallowRef<Spot | null>(null);
/** What the pointer went down with: it ends it too, whatever is taken in hand meanwhile. */
let held: Tool | undefined;
const hand = {
  down(at: Place): boolean {
    view.taken = null;
    held = tool.value;
    return !!held?.down && held.down(at) !== false;
  },
  move(at: Place): void {
    pointer.value = at.stage;
    held?.move?.(at);
  },
  up: (at: Place) => void held?.up?.(at),
  cancel(): void {
    held?.cancel?.();
    held = undefined;
  },
  hover(at: Place | null): void {
    pointer.value = at?.stage ?? null;
    tool.value?.hover?.(at);
    if (at) reading.read(onPicture(frame.value, at.stage));
    else reading.forget();
  },
};
useEventListener(
  window,
  "keydown",
  (e) => {
    if (e.key !== "Escape") return;
    // in mid-stroke the pointer lets go, too: what it does until it comes up is nothing
    const drawn = picture.value?.leave();
    if (Object.values(tools).some((t) => t.cancel?.()) || drawn) e.stopPropagation();
  },
  { capture: true },
);

const { aim, aiming } = useAiming(tool, (at) => reading.read(at));
watch(
  () => view.tool,
  (name) => {
    aim.value = null;
    if (name === "wrong") picture.value?.focus();
  },
);

const waiting = computed(
  () => picture.value?.waiting || (masks.finding.value ? "finding it in the frame" : ""),
);
watch(waiting, (words) => (view.waiting = words));
const busy = computed(
  () =>
    waiting.value || masks.waiting.value || picture.value?.pending || tool.value?.busy?.() || scene.finding,
);
</script>

<template>
  <PictureView
    ref="picture"
    :class="view.surround"
    :style="cursor ? { cursor } : undefined"
    :turned="check?.turned"
    :wish="wish"
    :plane="scene.plane"
    :seen="view.seen"
    :dragging="scene.dragging"
    :hand="hand"
    :mask="mask"
    :sheet="check ? null : (station.sheet?.() ?? null)"
    :label="`The picture, ${view.zoom ? `${Math.round(view.zoom * 100)} %` : 'whole'}${told ? `: ${told}` : ''}`"
    :data-state="busy ? 'waiting' : 'current'"
    @shown="shown"
    @map="mapped"
    @failed="failed"
    @keydown.capture="aiming"
  >
    <template #default="{ size }">
      <svg v-if="scene.latch && !check" class="handles"><LatchHandles :frame="frame" /></svg>
      <component
        :is="station.over"
        v-if="station.over"
        :frame="frame"
        :size="size"
        :check="check ?? null"
        :plain="shownState === ''"
      />
      <svg v-if="watched.places.length && !check" class="handles"><WatchMarks :frame="frame" /></svg>
      <PickMarks :frame="frame" :pointer="pointer" />
      <svg v-if="aim && view.tool" class="handles">
        <path class="aim" :d="`M${onStage(frame, aim).x - 12} ${onStage(frame, aim).y}h24m-12 -12v24`" />
      </svg>
      <svg v-if="tool?.draws" class="handles"><component :is="tool.draws" :tool="tool" /></svg>
      <component :is="check.over" v-if="check?.over" :what="check.what" :frame="frame" :stage="size" />
      <p v-if="told && !(view.tool && tool?.says)" class="named">{{ told }}</p>
      <p v-if="view.tool && tool?.says" class="named">{{ tool.says }} Esc to finish.</p>
    </template>
  </PictureView>
</template>

<style scoped>
.white {
  background: var(--paper);
}
.black {
  background: var(--night);
}
.aim {
  stroke: var(--mark);
  stroke-width: 1.5;
  filter: drop-shadow(0 0 1px var(--night));
}
.named {
  position: absolute;
  left: 50%;
  bottom: 6px;
  transform: translateX(-50%);
  width: max-content;
  max-width: 94%;
  background: var(--panel);
  padding: 2px 10px;
  border-radius: 3px;
  pointer-events: none;
}
</style>
