<script setup lang="ts">
/** A station at which a scene is worked on: the picture, and on its four sides what can be done, what was done, what there is
 * to use, and how its light lies. */
import { computed, ref, watch } from "vue";
import { useRouter } from "vue-router";

import CardSheet from "../stations/proof/CardSheet.vue";
import ComparePair from "../picture/ComparePair.vue";
import ExportPanel from "../stations/proof/ExportPanel.vue";
import LastTime from "../scene/LastTime.vue";
import KeySheet from "../app/KeySheet.vue";
import LadderScale from "../ladder/LadderScale.vue";
import PictureStage from "../picture/PictureStage.vue";
import SavingAsks from "../scene/SavingAsks.vue";
import SheetOfChecks from "../picture/SheetOfChecks.vue";
import TrayPanel from "../app/TrayPanel.vue";
import { useHelp } from "../composables/help";
import { useSceneKeys } from "../composables/scenekeys";
import KeyTable from "../keys/KeyTable.vue";
import { sheet } from "../model/facts";
import SceneFoot from "../scene/SceneFoot.vue";
import SceneHead from "../scene/SceneHead.vue";
import { stationOf } from "../stations";
import StripView from "../stations/proof/StripView.vue";
import { useDrawer } from "../stores/drawer";
import { useKeeps } from "../stores/keeps";
import { useProof } from "../stores/proof";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import TourBar from "../scene/TourBar.vue";
import SideDrawer from "../ui/SideDrawer.vue";

const props = defineProps<{ sceneId: string; station: string }>();
const scene = useScene();
const view = useView();
const drawer = useDrawer();
const keeps = useKeeps();
const proof = useProof();
const here = computed(() => stationOf(props.station)!);
const trouble = ref("");
const facts = computed(() => (scene.opened ? sheet(scene.opened.frame, scene.opened.frame_name) : []));
const DRAWERS = { export: "Export", tray: "Tray", keys: "Shortcuts", facts: "File info" };
const help = useHelp();
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
const { toggle, zoomTo, FIXED } = useSceneKeys(() => props.sceneId, useRouter());
watch(
  [() => !scene.coming && scene.opened?.name, here],
  ([name, at]) => (document.title = name ? `${name}, ${at.name} · Sun Latch` : "Sun Latch"),
  { immediate: true },
);

async function load(): Promise<void> {
  trouble.value = "";
  const id = props.sceneId;
  try {
    await scene.open(id);
    view.zoom = 0;
    view.letGo();
  } catch (error) {
    if (id === props.sceneId) trouble.value = (error as Error).message;
  }
}
watch(() => props.sceneId, load, { immediate: true });
watch(
  here,
  (station) => {
    view.station = station.name;
    view.tool = view.peek = "";
    drawer.close();
    view.wrong = null;
    view.letGo();
    scene.openMove = scene.openLatch = null;
  },
  { immediate: true },
);
</script>

<template>
  <div class="station">
    <SceneHead :at="here.name" :scene-id="sceneId" />
    <p v-if="trouble" class="problem" role="alert">
      {{ trouble }} <RouterLink to="/">Back to Gather</RouterLink>
    </p>
    <main v-else-if="!scene.coming && scene.opened && scene.document">
      <div class="side">
        <component :is="here.side" />
      </div>
      <div class="middle">
        <component :is="here.above" v-if="here.above" />
        <div class="pictured" @dragover="over" @drop="dropped">
          <StripView v-if="here.name === 'Proof' && proof.strip" />
          <SheetOfChecks v-else-if="view.sheet" />
          <ComparePair v-else-if="keeps.way" />
          <PictureStage v-else :station="here" />
          <p v-if="help" class="help-line" role="status">{{ help }}</p>
          <div class="over">
            <SavingAsks />
            <p v-if="keeps.offered" class="offer" role="status">
              Twenty minutes on this picture. Is it better than where you started?
              <button class="boxed" type="button" @click="keeps.takeOffer()">Compare with the start</button>
              <button class="plain" type="button" @click="keeps.offered = false">Dismiss</button>
            </p>
            <LastTime />
            <p v-for="n in scene.notices.all" :key="n.about" class="problem" role="alert">
              {{ n.sentence }}
              <button v-if="n.act" class="boxed" type="button" @click="n.act.run">{{ n.act.words }}</button>
              <button class="plain" type="button" @click="scene.notices.dismiss(n.about)">Dismiss</button>
            </p>
          </div>
        </div>
        <TourBar />
        <component :is="here.below" v-if="here.below" />
        <CardSheet v-if="measuring" @done="measured" />
      </div>
      <LadderScale />
      <SideDrawer v-if="drawer.open" :key="drawer.open" :name="DRAWERS[drawer.open]" @close="drawer.close()">
        <ExportPanel v-if="drawer.open === 'export'" />
        <TrayPanel v-else-if="drawer.open === 'tray'" />
        <KeyTable v-else-if="drawer.open === 'keys'" :fixed="FIXED" />
        <KeySheet v-else label="File info" :rows="facts" />
      </SideDrawer>
    </main>
    <SceneFoot @check="toggle" @zoom="zoomTo" @true-size="trueSize" />
  </div>
</template>

<style scoped>
.station {
  height: 100%;
  display: flex;
  flex-direction: column;
}
main {
  position: relative;
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
.over > p {
  display: flex;
  align-items: center;
  gap: 8px;
}
.offer {
  padding: 6px 10px;
  border-radius: 4px;
  background: var(--panel);
}
.over :is(button, [role="alertdialog"]) {
  pointer-events: auto;
}
@media (max-width: 1199px) {
  main {
    grid-template-columns: 280px minmax(0, 1fr) 56px;
  }
}
@media (max-width: 1023px) {
  main {
    grid-template: minmax(0, 1fr) minmax(180px, 27%) / minmax(0, 1fr) 48px;
  }
  .side {
    grid-area: 2 / 1 / 3 / 3;
    border-right: 0;
    border-top: 1px solid var(--line);
  }
  .middle {
    grid-area: 1 / 1 / 2 / 2;
  }
}
</style>
