<script setup lang="ts">
/** Ground and Light: the picture, its ledger, its latches, its ladder. */
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";
import { useRouter } from "vue-router";

import GroundPanel from "../components/GroundPanel.vue";
import ExportPanel from "../components/ExportPanel.vue";
import KeySheet from "../components/KeySheet.vue";
import LadderScale from "../components/LadderScale.vue";
import LatchEditor from "../components/LatchEditor.vue";
import LatchShelf from "../components/LatchShelf.vue";
import LedgerPanel from "../components/LedgerPanel.vue";
import PathLine from "../components/PathLine.vue";
import PictureStage from "../components/PictureStage.vue";
import SavingAsks from "../components/SavingAsks.vue";
import SavingSays from "../components/SavingSays.vue";
import TrayPanel from "../components/TrayPanel.vue";
import TrayStone from "../components/TrayStone.vue";
import { sheet } from "../model/facts";
import { MASK_LOOKS, type MaskLook } from "../model/tint";
import { useScene } from "../stores/scene";
import { useTray } from "../stores/tray";
import { useView, type Comparing, type Station } from "../stores/view";

const props = defineProps<{ sceneId: string; station: Station }>();
const scene = useScene();
const view = useView();
const tray = useTray();
const router = useRouter();
const peek = ref("");
const ground = ref<InstanceType<typeof GroundPanel>>();
const open = computed(() => {
  const things = scene.state?.open ?? [];
  const first = things[0] ?? "";
  return things.length > 1 || first.length > 18 ? `${things.length} open` : first;
});
const trouble = ref("");
const facts = computed(() => (scene.opened ? sheet(scene.opened.frame, scene.opened.frame_name) : []));
const lines = computed(() => {
  const n = scene.moves.length;
  return n === 1 ? "1 move" : `${n} moves`;
});
const ZOOMS = [
  { zoom: 0, label: "Whole", key: "w" },
  { zoom: 1, label: "100 %", key: "r" },
  { zoom: 2, label: "200 %", key: "t" },
];
/** The zoom, where it is none of these. */
const between = computed(() =>
  ZOOMS.some((z) => z.zoom === view.zoom) ? "" : `${Math.round(view.zoom * 100)} %`,
);
const SHEET: [string, string][] = [
  ["w · r · t", "the whole picture, 100 %, 200 %"],
  ["wheel · middle button", "larger or smaller about the pointer; pan"],
  ["1 – 7", "hold to compare, tap to pin: without this line, start, untouched, mask and checks"],
  ["Escape", "let go: a comparison, a drag, a latch, a panel"],
  ["m", "the next look of the mask"],
  ["b", "booth: grey, paper white, black"],
  ["i", "the frame's exposure data"],
  ["n", "write a new move"],
  ["p", "at Light: point at what is wrong"],
  ["g · l", "to Ground, to Light"],
  ["s", "at Ground: start for me"],
  ["arrows · Enter on the picture", "with a tool in hand: aim, and point there"],
  ["o", "file for the printer"],
  ["Ctrl Z · Ctrl Shift Z", "undo, redo"],
  ["arrows on a number", "change it; with Shift finely; Enter to type"],
];

async function load(): Promise<void> {
  trouble.value = "";
  try {
    await scene.open(props.sceneId);
    view.zoom = 0;
    view.letGo();
  } catch (error) {
    trouble.value = (error as Error).message;
  }
}
watch(() => props.sceneId, load, { immediate: true });
watch(
  () => props.station,
  (station) => {
    view.station = station;
    view.tool = "";
    view.wrong = null;
    view.letGo();
    scene.openMove = scene.openLatch = null;
  },
  { immediate: true },
);

const TYPING = "input:not([type=range]):not([type=radio]):not([type=checkbox]), textarea, select";
let held: { key: string; at: number } | null = null;

function down(e: KeyboardEvent): void {
  const typing = (e.target as HTMLElement).closest?.(TYPING);
  if (e.key.toLowerCase() === "z" && (e.ctrlKey || e.metaKey) && !typing) {
    e.preventDefault();
    void scene.step(e.shiftKey ? "redo" : "undo");
    return;
  }
  if (e.key === "Escape") {
    if (scene.dragging) scene.restore();
    else if (view.comparing) view.letGo();
    else if (view.tool) view.tool = "";
    else if (view.keys || view.facts || view.exporting || tray.open)
      view.keys = view.facts = view.exporting = tray.open = false;
    else if (scene.openLatch) scene.openLatch = null;
    else scene.openMove = null;
    return;
  }
  if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
  const comparison = view.comparisons.find((c) => c.key === e.key);
  if (comparison) {
    e.preventDefault();
    if (e.repeat) return;
    if (view.pinned && view.comparing === comparison.what) {
      view.letGo();
      held = null;
      return;
    }
    view.comparing = comparison.what;
    view.pinned = false;
    held = { key: e.key, at: performance.now() };
    return;
  }
  const zoom = ZOOMS.find((z) => z.key === e.key);
  if (zoom) view.zoom = zoom.zoom;
  else if (e.key === "m") {
    const looks = Object.keys(MASK_LOOKS) as MaskLook[];
    view.look = looks[(looks.indexOf(view.look) + 1) % looks.length]!;
  } else if (e.key === "b") view.turnSurround();
  else if (e.key === "i") view.facts = !view.facts;
  else if (e.key === "o") view.exporting = !view.exporting;
  else if (e.key === "?") view.keys = !view.keys;
  else if (e.key === "g") void router.push(`/ground/${props.sceneId}`);
  else if (e.key === "l") void router.push(`/light/${props.sceneId}`);
  else if (e.key === "s" && props.station === "Ground") void ground.value?.start();
  else if (e.key === "p" && props.station === "Light") {
    scene.openLatch = null;
    view.tool = "wrong";
    document.querySelector<HTMLElement>(".stage")?.focus();
  } else if (e.key === "n" && props.station === "Light") {
    e.preventDefault();
    scene.openLatch = null;
    window.setTimeout(() => document.getElementById("add-move")?.focus());
  }
}
function up(e: KeyboardEvent): void {
  if (!held || held.key !== e.key) return;
  if (performance.now() - held.at < 260) view.pinned = true;
  else view.letGo();
  held = null;
}
function toggleCompare(what: Comparing): void {
  if (view.comparing === what) view.letGo();
  else {
    view.comparing = what;
    view.pinned = true;
  }
}
onMounted(() => {
  window.addEventListener("keydown", down);
  window.addEventListener("keyup", up);
});
onBeforeUnmount(() => {
  window.removeEventListener("keydown", down);
  window.removeEventListener("keyup", up);
});
</script>

<template>
  <div class="station">
    <header>
      <h1>
        <RouterLink :to="scene.opened ? `/outing/${scene.opened.outing}` : '/'">{{
          scene.opened?.outing_name ?? "Outing"
        }}</RouterLink>
        /
        {{ scene.opened?.name ?? "…" }}
      </h1>
      <PathLine
        :at="station"
        :scene-id="sceneId"
        :outing-id="scene.opened?.outing"
        :ground-says="open"
        :light-says="lines"
      />
      <div class="undo">
        <button
          class="plain"
          type="button"
          :disabled="!scene.revision?.undo"
          :title="scene.revision?.undo ? `undo: ${scene.revision.undo}` : ''"
          @click="scene.step('undo')"
        >
          {{ scene.revision?.undo ? `undo: ${scene.revision.undo}` : "undo" }}
        </button>
        <button
          class="plain"
          type="button"
          :disabled="!scene.revision?.redo"
          :title="scene.revision?.redo ? `redo: ${scene.revision.redo}` : ''"
          @click="scene.step('redo')"
        >
          {{ scene.revision?.redo ? `redo: ${scene.revision.redo}` : "redo" }}
        </button>
      </div>
    </header>
    <p v-if="trouble" class="problem" role="alert">
      {{ trouble }} <RouterLink to="/">Back to Gather</RouterLink>
    </p>
    <main v-else-if="scene.opened && scene.document">
      <div class="side">
        <GroundPanel v-if="station === 'Ground'" ref="ground" />
        <LatchEditor v-else-if="scene.latch" />
        <LedgerPanel v-else />
        <LatchShelf v-if="station === 'Light'" v-show="!scene.latch" @peek="(id) => (peek = id)" />
      </div>
      <div class="middle">
        <PictureStage :peek="peek" />
        <div class="over">
          <SavingAsks />
          <p v-for="n in scene.notices.all" :key="n.about" class="problem" role="alert">
            {{ n.sentence }}
            <button class="plain" type="button" @click="scene.notices.settle(n.about)">Put away</button>
          </p>
        </div>
        <KeySheet v-if="view.facts" label="Exposure data" :rows="facts" />
        <KeySheet v-if="view.keys" label="Keys" :rows="SHEET" />
        <ExportPanel v-if="view.exporting" @close="view.exporting = false" />
        <TrayPanel v-if="tray.open" />
      </div>
      <LadderScale />
    </main>
    <footer>
      <div class="group" role="group" aria-label="Zoom">
        <button
          v-for="z in ZOOMS"
          :key="z.zoom"
          class="plain"
          :class="{ on: view.zoom === z.zoom }"
          type="button"
          :aria-pressed="view.zoom === z.zoom"
          @click="view.zoom = z.zoom"
        >
          {{ z.label }}
        </button>
        <span v-if="between" class="numeral between">{{ between }}</span>
        <button class="plain" type="button" @click="view.turnSurround">Booth {{ view.surround }}</button>
      </div>
      <div class="group" role="group" aria-label="Compare">
        <button
          v-for="c in view.comparisons"
          :key="c.key"
          class="plain"
          :class="{ on: view.comparing === c.what }"
          type="button"
          :aria-pressed="view.comparing === c.what"
          :title="c.said"
          @click="toggleCompare(c.what)"
        >
          <kbd>{{ c.key }}</kbd> <span class="word">{{ c.label }}</span>
        </button>
      </div>
      <span class="spot numeral">{{ view.spot }}</span>
      <span class="quiet" role="status">{{ view.waiting }}</span>
      <SavingSays />
      <TrayStone />
      <button class="plain" type="button" :aria-pressed="view.facts" @click="view.facts = !view.facts">
        Frame
      </button>
      <button class="plain" type="button" :aria-pressed="view.keys" @click="view.keys = !view.keys">
        Keys ?
      </button>
      <button
        class="plain strong"
        type="button"
        :aria-pressed="view.exporting"
        @click="view.exporting = !view.exporting"
      >
        Export
      </button>
    </footer>
  </div>
</template>

<style scoped>
.station {
  height: 100%;
  display: flex;
  flex-direction: column;
}
header {
  display: grid;
  grid-template-columns: 1fr auto 1fr;
  align-items: center;
  height: 46px;
  padding: 0 12px;
  border-bottom: 1px solid var(--line);
}
h1 {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
h1 a {
  color: var(--ink);
}
.undo {
  display: flex;
  justify-content: flex-end;
  min-width: 0;
}
.undo button {
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
main {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr) 166px;
}
.side {
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-right: 1px solid var(--line);
}
.middle {
  position: relative;
  min-width: 0;
}
.over {
  position: absolute;
  z-index: 5;
  top: 8px;
  left: 50%;
  display: flex;
  flex-direction: column;
  gap: 6px;
  transform: translateX(-50%);
}
footer {
  display: flex;
  align-items: center;
  gap: 10px;
  height: 32px;
  padding: 0 8px;
  border-top: 1px solid var(--line);
  white-space: nowrap;
  overflow: hidden;
}
.group {
  display: flex;
}
.between {
  padding: 3px 6px;
  font-weight: 600;
}
.spot {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
}
kbd {
  font: inherit;
  color: var(--ink-2);
}
.strong {
  font-weight: 600;
}
@media (max-width: 1100px) {
  .word {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
  main {
    grid-template-columns: 250px minmax(0, 1fr) 166px;
  }
}
</style>
