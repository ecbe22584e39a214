<script setup lang="ts">
/** Gather: frames come in, find their groups and their heaps; a scene begins from one. */
import { onMounted, ref } from "vue";
import { useRouter } from "vue-router";

import { client, need } from "../api/client";
import ArrivalList from "../stations/gather/ArrivalList.vue";
import FieldCamera from "../stations/gather/FieldCamera.vue";
import FrameCompare from "../stations/gather/FrameCompare.vue";
import JoinPanel from "../stations/gather/JoinPanel.vue";
import JobBar from "../app/JobBar.vue";
import NameForm from "../stations/gather/NameForm.vue";
import RemovedSays from "../stations/gather/RemovedSays.vue";
import TrayPanel from "../app/TrayPanel.vue";
import type { Naming } from "../composables/naming";
import { useGatherKeys } from "../composables/gatherkeys";
import { useOuting } from "../composables/outing";
import { useTable, useTableSays } from "../composables/table";
import KeyTable from "../keys/KeyTable.vue";
import { useHelp } from "../composables/help";
import GatherBar, { type Act } from "../stations/gather/GatherBar.vue";
import GatherFoot, { type Together } from "../stations/gather/GatherFoot.vue";
import GatherHead from "../stations/gather/GatherHead.vue";
import GatherTable from "../stations/gather/GatherTable.vue";
import { useDrawer } from "../stores/drawer";
import { useSession } from "../stores/session";
import SideDrawer from "../ui/SideDrawer.vue";

const props = defineProps<{ outingId?: string }>();
const router = useRouter();
const drawer = useDrawer();
const help = useHelp();
drawer.close();
const at = useOuting(() => props.outingId);
const { outings, outing, arriving, reading, removal, naming } = at;
const { heap, table, shown, chosen, currentId, current, looking, large, choose, chooseAll, look, step } =
  useTable(outing);
const camera = ref(false);
const overview = ref(false);
/** Frames about to be joined. */
const joining = ref<{ frames: string[]; kind: "sweep" | "bracket" } | null>(null);
const removedOpen = ref(false);
/** What is asked in a line of its own. */
const asking = ref<"" | "folder" | "new">("");
const { empty, more } = useTableSays(outing, shown);

const connect = () =>
  at.tried(async () => {
    if (!camera.value) await at.here();
    camera.value = !camera.value;
  });
async function readFolder(folder: string): Promise<void> {
  if (await at.read(folder)) asking.value = "";
}
async function begin(name: string): Promise<void> {
  asking.value = "";
  await at.begun(name);
}
async function remove(what: "outing" | "frame" | "scene", ids: string[]): Promise<void> {
  await at.remove(what, ids);
  chosen.value = chosen.value.filter((id) => !ids.includes(id));
}
async function together(kind: Together): Promise<void> {
  await at.together(chosen.value, kind);
  chosen.value = [];
}
function rename(what: Naming["what"], id: string, name: string): void {
  asking.value = "";
  naming.asked.value = { what, id, name };
}
function act(what: Act): void {
  if (what === "camera") void connect();
  else if (what === "back") looking.value = "";
  else if (what === "removed") removedOpen.value = !removedOpen.value;
  else if (what === "rename") rename("outing", outing.value!.id, outing.value!.name);
  else if (what === "remove") void remove("outing", [outing.value!.id]);
  else {
    naming.asked.value = null;
    asking.value = asking.value === what ? "" : what;
  }
}
const leave = () =>
  at.tried(async () => {
    await need(client.POST("/api/sign-out"));
    useSession().name = "";
    await router.push("/sign-in");
  });

function letGo(): void {
  if (drawer.open) drawer.close();
  else if (joining.value) joining.value = null;
  else if (looking.value) looking.value = "";
  else if (asking.value || naming.asked.value) {
    asking.value = "";
    naming.asked.value = null;
  } else chosen.value = [];
}
const FIXED = useGatherKeys({
  looking,
  chosen,
  current,
  step,
  letGo,
  choose,
  sort: at.sort,
  rename: (frame) => rename("frame", frame.id, frame.name),
  remove: (ids) => remove("frame", ids),
  overview: () => (overview.value = !overview.value),
  keys: () => drawer.toggle("keys"),
});
onMounted(() => void at.tried(removal.load));
</script>

<template>
  <div class="gather">
    <GatherHead :outing="outing" :outings="outings ?? []" @go="at.go" @leave="leave" />
    <GatherBar
      v-model:heap="heap"
      v-model:overview="overview"
      :outing="outing"
      :camera="camera"
      :looking="!!looking"
      :removed="removal.held.value.length"
      :removed-open="removedOpen"
      @bring="arriving.bring"
      @act="act"
    />
    <RemovedSays
      :last="removal.last.value"
      :held="removal.held.value"
      :open="removedOpen"
      :renamed="naming.last.value"
      @back="at.takeBack"
      @name-back="at.nameBack"
      @away="
        removal.last.value = [];
        naming.last.value = null;
      "
    />
    <NameForm
      v-if="asking === 'folder'"
      label="Folder on the server"
      go="Copy frames from this folder"
      placeholder="/home/me/trip"
      :busy="reading.running.value"
      @given="readFolder"
      @away="asking = ''"
    />
    <NameForm
      v-else-if="asking === 'new'"
      label="Name of the outing"
      go="Create"
      placeholder="Heath and coast, October"
      @given="begin"
      @away="asking = ''"
    />
    <NameForm
      v-else-if="naming.asked.value"
      :key="naming.asked.value.id"
      :label="`New name of ${naming.asked.value.what} ${naming.asked.value.name}`"
      go="Rename"
      :value="naming.asked.value.name"
      @given="at.rename"
      @away="naming.asked.value = null"
    />
    <p v-if="at.problem.value" class="problem" role="alert">{{ at.problem.value }}</p>
    <JobBar v-if="reading.job.value" :job="reading.job.value" label="Folder" @stop="reading.cancel" />
    <ArrivalList :arrivals="arriving.arrivals.value" @stop="arriving.stop" @stop-all="arriving.stopAll" />
    <main>
      <FrameCompare
        v-if="looking && large.length"
        :outing="outing!.id"
        :frames="large"
        :close="looking !== 'one'"
        @sort="at.sort"
        @stopped="at.stopped"
        @begin="at.scene"
      />
      <GatherTable
        v-else
        :table="table"
        :chosen="chosen"
        :current-id="current?.id ?? ''"
        :overview="overview"
        :empty="empty"
        :more="more"
        @bring="arriving.bring"
        @current="(id) => (currentId = id)"
        @look="look"
        @choose="choose"
        @all="chooseAll"
        @begin="at.scene"
        @apart="at.apart"
        @join="
          (some, kind) =>
            (joining = { frames: some.map((f) => f.id), kind: kind === 'bracket' ? 'bracket' : 'sweep' })
        "
        @sort="at.sort"
        @rename="rename"
        @remove-scene="(id) => remove('scene', [id])"
        @more="at.loadMore"
      />
      <JoinPanel
        v-if="joining && outing"
        :key="joining.frames.join()"
        :outing="outing.id"
        :frames="joining.frames"
        :kind="joining.kind"
        @away="joining = null"
        @made="at.renew"
      />
      <SideDrawer
        v-if="drawer.open === 'tray' || drawer.open === 'keys'"
        :key="drawer.open"
        :name="drawer.open === 'tray' ? 'Tray' : 'Shortcuts'"
        @close="drawer.close()"
      >
        <TrayPanel v-if="drawer.open === 'tray'" />
        <KeyTable v-else :fixed="FIXED" />
      </SideDrawer>
      <p v-if="help" class="help-line" role="status">{{ help }}</p>
      <FieldCamera v-if="camera && outing" :outing="outing.id" @arrived="at.renew" @close="camera = false" />
    </main>
    <GatherFoot
      :frame="current"
      :count="chosen.length"
      @beside="looking = 'beside'"
      @join="(kind) => (joining = { frames: chosen, kind })"
      @together="together"
      @sort="(to) => current && at.sort(current, to)"
      @rename="current && rename('frame', current.id, current.name)"
      @remove="remove('frame', chosen.length ? chosen : current ? [current.id] : [])"
      @release="chosen = []"
    />
  </div>
</template>

<style scoped>
.gather {
  height: 100%;
  display: flex;
  flex-direction: column;
}
main {
  position: relative;
  flex: 1;
  min-height: 0;
  display: flex;
}
</style>
