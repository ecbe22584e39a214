<script setup lang="ts">
/** A station at which a scene is worked on: the picture, what stands beside it, its ladder. */
import { ElDropdown, ElDropdownItem, ElDropdownMenu } from "element-plus";
import { computed, ref, watch } from "vue";
import { useRouter } from "vue-router";

import { CHECKS, toldOf } from "../checks";
import CardSheet from "../components/CardSheet.vue";
import ComparePair from "../components/ComparePair.vue";
import ExportPanel from "../components/ExportPanel.vue";
import KeySheet from "../components/KeySheet.vue";
import LadderScale from "../components/LadderScale.vue";
import PathLine from "../components/PathLine.vue";
import PictureStage from "../components/PictureStage.vue";
import SavingAsks from "../components/SavingAsks.vue";
import SavingSays from "../components/SavingSays.vue";
import SheetOfChecks from "../components/SheetOfChecks.vue";
import TrayPanel from "../components/TrayPanel.vue";
import TrayStone from "../components/TrayStone.vue";
import UndoRow from "../components/UndoRow.vue";
import { useSceneKeys, ZOOMS } from "../composables/scenekeys";
import KeyTable from "../keys/KeyTable.vue";
import { sheet } from "../model/facts";
import { STATIONS, stationOf } from "../stations";
import StripView from "../stations/proof/StripView.vue";
import { useKeeps } from "../stores/keeps";
import { useProof } from "../stores/proof";
import { useScene } from "../stores/scene";
import { useTray } from "../stores/tray";
import { useView } from "../stores/view";

const props = defineProps<{ sceneId: string; station: string }>();
const scene = useScene();
const view = useView();
const tray = useTray();
const keeps = useKeeps();
const proof = useProof();
const here = computed(() => stationOf(props.station)!);
const trouble = ref("");
const facts = computed(() => (scene.opened ? sheet(scene.opened.frame, scene.opened.frame_name) : []));
const checks = computed(() => CHECKS.filter((c) => c.fits?.() ?? true));
/** The screen's density is asked for by a card. */
const measuring = ref(false);
function trueSize(): void {
  if (!proof.trueZoom) measuring.value = true;
  else zoomTo(proof.trueZoom);
}
function measured(): void {
  measuring.value = false;
  if (proof.trueZoom) zoomTo(proof.trueZoom);
}
/** A keep dropped on the middle of the picture splits it, beside its middle it is seen beside it. */
function over(e: DragEvent): void {
  if (e.dataTransfer?.types.includes("text/keep")) e.preventDefault();
}
function dropped(e: DragEvent): void {
  const id = e.dataTransfer?.getData("text/keep");
  if (!id) return;
  e.preventDefault();
  const { left, width } = (e.currentTarget as HTMLElement).getBoundingClientRect();
  const at = (e.clientX - left) / width;
  void keeps.compare(id, at > 0.25 && at < 0.75 ? "split" : "side");
}
/** Those in sight, and those that are asked for. */
const first = computed(() => checks.value.filter((c) => /^[1-6]$/.test(c.key)));
const rest = computed(() => checks.value.filter((c) => !first.value.includes(c)));
function more(what: string): void {
  if (what) toggle(what);
  else view.sheet = !view.sheet;
}
const says = computed(() => Object.fromEntries(STATIONS.map((s) => [s.name, s.says?.()])));
/** The zoom, where it is none of these. */
const between = computed(() =>
  ZOOMS.some((z) => z.zoom === view.zoom) || view.zoom === proof.trueZoom
    ? ""
    : `${Math.round(view.zoom * 100)} %`,
);
const { toggle, zoomTo, FIXED } = useSceneKeys(() => props.sceneId, useRouter());

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
  here,
  (station) => {
    view.station = station.name;
    view.tool = view.peek = "";
    view.wrong = null;
    view.letGo();
    scene.openMove = scene.openLatch = null;
  },
  { immediate: true },
);
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
      <PathLine :at="here.name" :scene-id="sceneId" :outing-id="scene.opened?.outing" :says="says" />
      <UndoRow />
    </header>
    <p v-if="trouble" class="problem" role="alert">
      {{ trouble }} <RouterLink to="/">Back to Gather</RouterLink>
    </p>
    <main v-else-if="scene.opened && scene.document">
      <div class="side">
        <component :is="here.side" />
      </div>
      <div class="middle">
        <component :is="here.above" v-if="here.above" />
        <div class="pictured" @dragover="over" @drop="dropped">
          <StripView v-if="here.name === 'Proof' && proof.strip" />
          <SheetOfChecks v-else-if="view.sheet" />
          <ComparePair v-else-if="keeps.way" />
          <PictureStage v-else />
          <div class="over">
            <SavingAsks />
            <p v-if="keeps.offered" class="offer" role="status">
              Twenty minutes on this picture. Is it better than where you started?
              <button class="boxed" type="button" @click="keeps.takeOffer()">Compare with the start</button>
              <button class="plain" type="button" @click="keeps.offered = false">Dismiss</button>
            </p>
            <p v-for="n in scene.notices.all" :key="n.about" class="problem" role="alert">
              {{ n.sentence }}
              <button v-if="n.act" class="boxed" type="button" @click="n.act.run">{{ n.act.words }}</button>
              <button class="plain" type="button" @click="scene.notices.settle(n.about)">Put away</button>
            </p>
          </div>
        </div>
        <component :is="here.below" v-if="here.below" />
        <KeySheet v-if="view.facts" label="Exposure data" :rows="facts" />
        <KeyTable v-if="view.keys" :fixed="FIXED" />
        <CardSheet v-if="measuring" @done="measured" />
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
          @click="zoomTo(z.zoom)"
        >
          {{ z.label }}
        </button>
        <button
          v-if="here.name === 'Proof' && proof.paper"
          class="plain"
          :class="{ on: proof.trueZoom > 0 && view.zoom === proof.trueZoom }"
          type="button"
          @click="trueSize"
        >
          True size
        </button>
        <span v-if="between" class="numeral between">{{ between }}</span>
        <button class="plain" type="button" @click="view.turnSurround">Booth {{ view.surround }}</button>
      </div>
      <div class="group" role="group" aria-label="Compare">
        <button
          v-for="c in first"
          :key="c.what"
          class="plain"
          :class="{ on: view.comparing === c.what }"
          type="button"
          :aria-pressed="view.comparing === c.what"
          :title="toldOf(c, view.station)"
          @click="toggle(c.what)"
        >
          <kbd>{{ c.key }}</kbd> <span class="word">{{ c.label }}</span>
        </button>
        <ElDropdown trigger="click" placement="top" @command="more">
          <button
            class="plain"
            :class="{ on: rest.some((c) => c.what === view.comparing) || view.sheet }"
            type="button"
          >
            More checks ▾
          </button>
          <template #dropdown>
            <ElDropdownMenu>
              <ElDropdownItem v-for="c in rest" :key="c.what" :command="c.what"
                ><kbd>{{ c.key }}</kbd
                >&ensp;{{ c.label }}</ElDropdownItem
              >
              <ElDropdownItem divided command="">All checks on one sheet</ElDropdownItem>
            </ElDropdownMenu>
          </template>
        </ElDropdown>
      </div>
      <span class="quiet waits" role="status">{{ view.waiting }}</span>
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
        :class="{ filled: here.name === 'Proof' }"
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
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}
.pictured {
  position: relative;
  flex: 1;
  min-height: 0;
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
  /* what is said lies over the picture; the pointer goes through it */
  pointer-events: none;
}
footer :deep(.el-dropdown) {
  font-size: inherit;
  color: inherit;
}
.offer {
  padding: 6px 10px;
  border-radius: 3px;
  background: var(--panel);
}
.over :is(button, [role="alertdialog"]) {
  pointer-events: auto;
}
footer {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 32px;
  padding: 0 6px;
  border-top: 1px solid var(--line);
  white-space: nowrap;
  overflow: hidden;
}
.group {
  display: flex;
}
footer :deep(.plain) {
  padding-inline: 5px;
}
.waits {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
}
.between {
  padding: 3px 6px;
  font-weight: 600;
}
kbd {
  font: inherit;
  color: var(--ink-2);
}
.strong {
  font-weight: 600;
}
.filled {
  padding-inline: 14px;
  background: var(--accent);
  color: var(--paper);
}
.filled:hover:not(:disabled) {
  background: var(--accent-ink);
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
