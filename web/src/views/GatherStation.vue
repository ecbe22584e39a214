<script setup lang="ts">
/** Gather: frames come in, find their groups and their heaps; a scene begins from one. */
import { ElProgress } from "element-plus";
import { useEventListener } from "@vueuse/core";
import { computed, nextTick, onMounted, ref } from "vue";
import { useRouter } from "vue-router";

import { client, need } from "../api/client";
import ArrivalList from "../components/ArrivalList.vue";
import ChosenBar, { type Together } from "../components/ChosenBar.vue";
import FieldCamera from "../components/FieldCamera.vue";
import FrameCompare from "../components/FrameCompare.vue";
import GatherBar from "../components/GatherBar.vue";
import GatherTable from "../components/GatherTable.vue";
import NameForm from "../components/NameForm.vue";
import PathLine from "../components/PathLine.vue";
import RemovedSays from "../components/RemovedSays.vue";
import TrayPanel from "../components/TrayPanel.vue";
import TrayStone from "../components/TrayStone.vue";
import type { Naming } from "../composables/naming";
import { useOuting } from "../composables/outing";
import { useKeys } from "../keys/keys";
import KeyTable from "../keys/KeyTable.vue";
import { blocks, HEAPS, type Frame } from "../model/gather";
import { useSession } from "../stores/session";
import { useTray } from "../stores/tray";

const props = defineProps<{ outingId?: string }>();
const router = useRouter();
const tray = useTray();
const at = useOuting(() => props.outingId);
const { outings, outing, arriving, reading, removal, naming } = at;
const several = computed(() => (outings.value?.length ?? 0) > 1);
const heap = ref<string | null>(null);
const table = computed(() => blocks(outing.value?.frames ?? [], outing.value?.groups ?? [], heap.value));
const shown = computed(() => table.value.flatMap((b) => b.frames));
const chosen = ref<string[]>([]);
const currentId = ref("");
const current = computed(() => shown.value.find((f) => f.id === currentId.value) ?? shown.value[0] ?? null);
/** What is looked at large: the current frame, or the chosen ones side by side. */
const looking = ref<"" | "one" | "close" | "beside">("");
const large = computed<Frame[]>(() => {
  if (looking.value === "beside")
    return (outing.value?.frames ?? []).filter((f) => chosen.value.includes(f.id)).slice(0, 6);
  return looking.value && current.value ? [current.value] : [];
});
const camera = ref(false);
const overview = ref(false);
const keys = ref(false);
const removedOpen = ref(false);
/** What is asked in a line of its own. */
const asking = ref<"" | "folder" | "new">("");
const TYPING = "input:not([type=checkbox]), textarea, select";
const frames = (n: number) => (n === 1 ? "1 frame" : `${n} frames`);
const empty = computed(() => {
  if (!outing.value || shown.value.length) return "";
  return outing.value.frames.length
    ? "Nothing lies on this heap."
    : "No frames yet. Drop the raw files of one trip here, read a folder, or connect the field camera; then choose the one worth the evening.";
});
const more = computed(() => {
  const of = outing.value;
  return of && of.frames.length < of.count ? `${of.frames.length} of ${frames(of.count)} …` : "";
});

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
function act(what: "folder" | "camera" | "back" | "keys" | "removed" | "new" | "rename" | "remove"): void {
  if (what === "camera") void connect();
  else if (what === "back") looking.value = "";
  else if (what === "keys") keys.value = !keys.value;
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

function choose(id: string): void {
  chosen.value = chosen.value.includes(id) ? chosen.value.filter((c) => c !== id) : [...chosen.value, id];
}
function chooseAll(members: Frame[]): void {
  chosen.value = members.map((f) => f.id);
  looking.value = "beside";
}
function look(frame: Frame): void {
  currentId.value = frame.id;
  looking.value = "one";
}
async function step(by: number): Promise<void> {
  const from = shown.value.findIndex((f) => f.id === current.value?.id);
  const next = shown.value[Math.min(shown.value.length - 1, Math.max(0, from + by))];
  if (!next) return;
  currentId.value = next.id;
  await nextTick();
  if (!looking.value) document.querySelector<HTMLElement>(`[data-frame="${next.id}"]`)?.focus();
}

function letGo(): void {
  if (keys.value) keys.value = false;
  else if (tray.open) tray.open = false;
  else if (looking.value) looking.value = "";
  else if (asking.value || naming.asked.value) {
    asking.value = "";
    naming.asked.value = null;
  } else chosen.value = [];
}
const single = () => (looking.value === "beside" ? null : current.value);
const onOne = (work: (frame: Frame) => unknown) => () => {
  const frame = single();
  if (frame) void work(frame);
};
useKeys().add(
  ...HEAPS.map((h) => ({
    name: `heap ${h.sorting}`,
    says: `at Gather: ${h.label}`,
    key: h.key,
    run: onOne((f) => at.sort(f, h.sorting)),
  })),
  { name: "zoom 0", says: "the whole picture", key: "w", run: onOne(() => (looking.value = "one")) },
  { name: "zoom 1", says: "100 %", key: "r", run: onOne(() => (looking.value = "close")) },
  { name: "choose", says: "at Gather: choose the frame", key: "c", run: onOne((f) => choose(f.id)) },
  {
    name: "beside",
    says: "at Gather: the chosen ones side by side",
    key: "d",
    run() {
      if (chosen.value.length > 1) looking.value = looking.value === "beside" ? "" : "beside";
    },
  },
  {
    name: "rename",
    says: "give it another name",
    key: "F2",
    run: onOne((f) => rename("frame", f.id, f.name)),
  },
  {
    name: "remove",
    says: "at Gather: remove it, or the chosen ones",
    key: "Delete",
    run: onOne((f) => remove("frame", chosen.value.length ? chosen.value : [f.id])),
  },
  {
    name: "overview",
    says: "at Gather: the whole outing small",
    key: "v",
    run: () => (overview.value = !overview.value),
  },
  { name: "keys", says: "these keys", key: "?", run: () => (keys.value = !keys.value) },
);
const FIXED: [string, string][] = [
  ["arrows", "the next frame"],
  ["Enter", "look at it large; again, or Escape, to go back"],
];
const STEPS: Record<string, number> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };
useEventListener(window, "keydown", (e) => {
  const on = e.target as HTMLElement;
  if (on.closest?.(TYPING) || e.ctrlKey || e.metaKey || e.altKey) return;
  const by = STEPS[e.key];
  if (e.key === "Escape") letGo();
  else if (!single()) return;
  else if (e.key === "Enter" && looking.value && !on.closest("button")) looking.value = "";
  else if (by) {
    e.preventDefault();
    void step(by);
  }
});
onMounted(() => void at.tried(removal.load));
</script>

<template>
  <div class="gather">
    <header>
      <div class="which">
        <h1 :class="{ 'hidden-label': several }">{{ outing?.name ?? "Gather" }}</h1>
        <select
          v-if="several"
          class="boxed"
          aria-label="Outing"
          :value="outing?.id"
          @change="at.go(($event.target as HTMLSelectElement).value)"
        >
          <option v-for="o in outings" :key="o.id" :value="o.id">{{ o.name }}</option>
        </select>
      </div>
      <PathLine at="Gather" :says="{ Gather: outing ? frames(outing.count) : '' }" />
      <div class="own">
        <TrayStone />
        <button class="plain" type="button" @click="leave">Sign out</button>
      </div>
    </header>
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
    <ChosenBar
      v-if="chosen.length"
      :count="chosen.length"
      @beside="looking = 'beside'"
      @together="together"
      @remove="remove('frame', chosen)"
      @release="chosen = []"
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
      label="Folder on this machine"
      go="Read it where it lies"
      placeholder="/home/me/trip"
      :busy="reading.running.value"
      @given="readFolder"
      @away="asking = ''"
    />
    <NameForm
      v-else-if="asking === 'new'"
      label="Name of the outing"
      go="Begin it"
      placeholder="Heath and coast, October"
      @given="begin"
      @away="asking = ''"
    />
    <NameForm
      v-else-if="naming.asked.value"
      :key="naming.asked.value.id"
      :label="`New name of ${naming.asked.value.what} ${naming.asked.value.name}`"
      go="Call it that"
      :value="naming.asked.value.name"
      @given="at.rename"
      @away="naming.asked.value = null"
    />
    <p v-if="at.problem.value" class="problem" role="alert">{{ at.problem.value }}</p>
    <div v-if="reading.job.value" class="bar" aria-live="polite">
      <template v-if="reading.running.value">
        <ElProgress
          class="wide"
          :percentage="Math.round(reading.job.value.done * 100)"
          :show-text="false"
          aria-label="Folder"
        />
        <span class="quiet">{{ reading.job.value.step }}</span>
        <button class="plain" type="button" @click="reading.cancel">Stop</button>
      </template>
      <span v-else role="status">{{ reading.job.value.message }}</span>
    </div>
    <ArrivalList :arrivals="arriving.arrivals.value" @stop="arriving.stop" @stop-all="arriving.stopAll" />
    <main>
      <FrameCompare
        v-if="looking && large.length"
        :outing="outing!.id"
        :frames="large"
        :close="looking !== 'one'"
        @sort="at.sort"
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
        @rename="rename"
        @remove-scene="(id) => remove('scene', [id])"
        @more="at.loadMore"
      />
      <KeyTable v-if="keys" :fixed="FIXED" />
      <TrayPanel v-if="tray.open" />
      <FieldCamera v-if="camera && outing" :outing="outing.id" @arrived="at.renew" @close="camera = false" />
    </main>
  </div>
</template>

<style scoped>
.gather {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.gather > header {
  display: grid;
  grid-template-columns: 1fr auto 1fr;
  align-items: center;
  height: 46px;
  flex: none;
  padding: 0 14px;
  border-bottom: 1px solid var(--line);
}
h1 {
  font-size: 16px;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.which {
  min-width: 0;
}
.which select {
  max-width: 300px;
  font-size: 16px;
  font-weight: 600;
}
.own {
  display: flex;
  justify-content: flex-end;
}
.bar {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 14px;
  border-bottom: 1px solid var(--line);
}
.wide {
  width: 420px;
}
main > :deep(.tray) {
  top: 12px;
  bottom: auto;
}
main {
  position: relative;
  flex: 1;
  min-height: 0;
  display: flex;
}
</style>
