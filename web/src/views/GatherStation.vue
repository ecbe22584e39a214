<script setup lang="ts">
/** Gather: frames come in, find their groups and their heaps; a scene begins from one. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { ElButton, ElProgress } from "element-plus";
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from "vue";
import { useRouter } from "vue-router";

import { client, need, type Schemas } from "../api/client";
import ArrivalList from "../components/ArrivalList.vue";
import ChosenBar from "../components/ChosenBar.vue";
import FieldCamera from "../components/FieldCamera.vue";
import FrameCompare from "../components/FrameCompare.vue";
import FrameTile from "../components/FrameTile.vue";
import KeySheet from "../components/KeySheet.vue";
import PathLine from "../components/PathLine.vue";
import RemovedSays from "../components/RemovedSays.vue";
import { useArrivals } from "../composables/arrivals";
import { useJob } from "../composables/job";
import { useRemoval, type Removed } from "../composables/removal";
import { blocks, groupName, HEAPS, type Frame, type Group } from "../model/gather";
import { useSession } from "../stores/session";

const router = useRouter();
const queries = useQueryClient();
const { data: outings, error } = useQuery({
  queryKey: ["outings"],
  queryFn: () => need(client.GET("/api/outings")),
  retry: 1,
});
const picked = ref<string | null>(null);
const outing = computed(
  () => outings.value?.find((o) => o.id === picked.value) ?? outings.value?.[0] ?? null,
);
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
const over = ref(false);
const problem = ref("");
const picker = ref<HTMLInputElement>();
const folder = ref<string | null>(null);
const keys = ref(false);
const SHEET: [string, string][] = [
  ["arrows", "the next frame"],
  ["Enter", "look at it large; again, or Escape, to go back"],
  ["w · r", "whole, 100 %"],
  ["e · m · l · u", "Evening, Maybe, Leave, unsorted"],
  ["c", "choose the frame, or no longer"],
  ["s", "the chosen ones side by side"],
  ["Delete", "remove it, or the chosen ones; they can be taken back"],
  ["o", "the whole outing small, or large again"],
  ["?", "this sheet"],
];

const frames = (n: number) => (n === 1 ? "1 frame" : `${n} frames`);
const count = (sorting: string) => (outing.value?.frames ?? []).filter((f) => f.sorting === sorting).length;
const renew = () => queries.invalidateQueries({ queryKey: ["outings"] });
const reading = useJob(renew, renew);

/** Put what the server says of an outing in place of what is shown. */
function take(next: Schemas["OutingOut"]): void {
  queries.setQueryData<Schemas["OutingOut"][]>(["outings"], (all) =>
    all?.map((o) => {
      if (o.id !== next.id) return o;
      // the server sends the first frames; those that were sent later stay
      const sent = new Set(next.frames.map((f) => f.id));
      const later = next.frames.length < next.count ? o.frames.filter((f) => !sent.has(f.id)) : [];
      return { ...next, frames: [...next.frames, ...later].slice(0, next.count) };
    }),
  );
}
async function tried(work: () => Promise<void>): Promise<void> {
  problem.value = "";
  try {
    await work();
  } catch (refusal) {
    problem.value = (refusal as Error).message;
  }
}

/** The outing frames go to; the first one is begun without asking. */
async function here(): Promise<string> {
  if (outing.value) return outing.value.id;
  const made = await need(client.POST("/api/outings", { body: { name: "My first outing" } }));
  await renew();
  return made.id;
}
const recognise = () =>
  tried(async () => {
    const path = { outing_id: await here() };
    take(await need(client.POST("/api/outings/{outing_id}/recognise", { params: { path } })));
  });
const { arrivals, bring } = useArrivals(here, renew, recognise);
const connect = () =>
  tried(async () => {
    if (!camera.value) await here();
    camera.value = !camera.value;
  });
const readFolder = () =>
  tried(async () => {
    const path = { outing_id: await here() };
    const body = { folder: folder.value ?? "" };
    await reading.start(need(client.POST("/api/outings/{outing_id}/folder", { params: { path }, body })));
    if (!reading.problem.value) folder.value = null;
  });

const sort = (frame: Frame, sorting: string) =>
  tried(async () => {
    const path = { frame_id: frame.id };
    const body = { sorting: sorting as never };
    const next = await need(client.PATCH("/api/frames/{frame_id}", { params: { path }, body }));
    const of = outing.value;
    if (of) take({ ...of, frames: of.frames.map((f) => (f.id === next.id ? next : f)) });
  });
const together = (kind: "sweep" | "bracket" | "twin" | "none") =>
  tried(async () => {
    const path = { outing_id: outing.value!.id };
    const body = { frames: chosen.value, kind };
    take(await need(client.POST("/api/outings/{outing_id}/groups", { params: { path }, body })));
    chosen.value = [];
  });
const apart = (group: Group) =>
  tried(async () => {
    take(await need(client.DELETE("/api/groups/{group_id}", { params: { path: { group_id: group.id } } })));
  });
const begin = (frame: Frame) =>
  tried(async () => {
    const path = { frame_id: frame.id };
    const made = await need(
      client.POST("/api/frames/{frame_id}/scenes", { params: { path }, body: { name: "" } }),
    );
    await router.push(`/ground/${made.id}`);
  });
const newOuting = () =>
  tried(async () => {
    const made = await need(client.POST("/api/outings", { body: { name: "New outing" } }));
    await renew();
    picked.value = made.id;
  });
const removal = useRemoval(renew);
const removedOpen = ref(false);
const remove = (what: Removed["what"], ids: string[]) =>
  tried(async () => {
    await removal.remove(what, ids);
    chosen.value = chosen.value.filter((id) => !ids.includes(id));
    if (what === "outing") picked.value = null;
  });
const takeBack = (things: Removed[]) => tried(() => removal.takeBack(things));
/** The frames that were not sent with the outing, as they come into sight. */
const more = ref<HTMLElement>();
let loading = false;
const loadMore = () =>
  tried(async () => {
    const of = outing.value;
    if (!of || loading || of.frames.length >= of.count) return;
    loading = true;
    try {
      const params = { path: { outing_id: of.id }, query: { after: of.frames.length } };
      const next = await need(client.GET("/api/outings/{outing_id}/frames", { params }));
      take({ ...of, frames: [...of.frames, ...next] });
    } finally {
      loading = false;
    }
  });
const sight = new IntersectionObserver((seen) => seen.some((e) => e.isIntersecting) && void loadMore());
watch(more, (now, before) => {
  if (before) sight.unobserve(before);
  if (now) sight.observe(now);
});
const leave = () =>
  tried(async () => {
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
  const at = shown.value.findIndex((f) => f.id === current.value?.id);
  const next = shown.value[Math.min(shown.value.length - 1, Math.max(0, at + by))];
  if (!next) return;
  currentId.value = next.id;
  await nextTick();
  if (!looking.value) document.querySelector<HTMLElement>(`[data-frame="${next.id}"]`)?.focus();
}

const TYPING = "input:not([type=checkbox]), textarea, select";
function down(e: KeyboardEvent): void {
  const on = e.target as HTMLElement;
  if (on.closest?.(TYPING) || e.ctrlKey || e.metaKey || e.altKey) return;
  const put = HEAPS.find((h) => h.key === e.key);
  const frame = looking.value === "beside" ? null : current.value;
  if (e.key === "Escape") {
    if (keys.value) keys.value = false;
    else if (looking.value) looking.value = "";
    else if (folder.value !== null) folder.value = null;
    else chosen.value = [];
  } else if (e.key === "?") keys.value = !keys.value;
  else if (e.key === "o") overview.value = !overview.value;
  else if (e.key === "s" && chosen.value.length > 1)
    looking.value = looking.value === "beside" ? "" : "beside";
  else if (!frame) return;
  else if (put) void sort(frame, put.sorting);
  else if (e.key === "Delete") void remove("frame", chosen.value.length ? chosen.value : [frame.id]);
  else if (e.key === "c") choose(frame.id);
  else if (e.key === "w") looking.value = "one";
  else if (e.key === "r") looking.value = "close";
  else if (e.key === "Enter" && looking.value && !on.closest("button")) looking.value = "";
  else if (e.key === "ArrowRight" || e.key === "ArrowDown") void step(1);
  else if (e.key === "ArrowLeft" || e.key === "ArrowUp") void step(-1);
  else return;
  if (e.key !== "Enter") e.preventDefault();
}
onMounted(() => {
  window.addEventListener("keydown", down);
  void tried(removal.load);
});
onBeforeUnmount(() => {
  window.removeEventListener("keydown", down);
  sight.disconnect();
});
</script>

<template>
  <div class="gather">
    <header>
      <h1>{{ outing?.name ?? "Gather" }}</h1>
      <PathLine at="Gather" :gather-says="outing ? frames(outing.count) : ''" />
      <button class="plain" type="button" @click="leave">Sign out</button>
    </header>
    <div class="bar">
      <ElButton type="primary" @click="picker?.click()">Bring in frames</ElButton>
      <input
        ref="picker"
        class="hidden-label"
        type="file"
        multiple
        tabindex="-1"
        aria-label="Files to bring in"
        @change="bring(($event.target as HTMLInputElement).files)"
      />
      <button class="plain" type="button" @click="folder = folder === null ? '' : null">Read a folder</button>
      <button class="plain" :class="{ on: camera }" type="button" :aria-pressed="camera" @click="connect">
        Field camera
      </button>
      <div class="heaps" role="group" aria-label="Show">
        <button class="plain" :class="{ on: heap === null }" type="button" @click="heap = null">All</button>
        <button
          v-for="h in HEAPS"
          :key="h.key"
          class="plain"
          :class="{ on: heap === h.sorting }"
          type="button"
          :aria-pressed="heap === h.sorting"
          @click="heap = h.sorting"
        >
          {{ h.label }} {{ count(h.sorting) }}
        </button>
      </div>
      <div class="right">
        <button v-if="looking" class="plain" type="button" @click="looking = ''">‹ All frames</button>
        <button
          v-else
          class="plain"
          :class="{ on: overview }"
          type="button"
          :aria-pressed="overview"
          @click="overview = !overview"
        >
          Overview
        </button>
        <button class="plain" type="button" @click="keys = !keys">Keys ?</button>
        <label v-if="(outings?.length ?? 0) > 1"
          >Outing
          <select v-model="picked" class="boxed">
            <option v-for="o in outings" :key="o.id" :value="o.id">{{ o.name }}</option>
          </select></label
        >
        <button
          v-if="removal.held.value.length"
          class="plain"
          type="button"
          :aria-expanded="removedOpen"
          @click="removedOpen = !removedOpen"
        >
          Removed {{ removal.held.value.length }}
        </button>
        <button class="plain" type="button" @click="newOuting">New outing</button>
        <button v-if="outing" class="plain" type="button" @click="remove('outing', [outing.id])">
          Remove outing
        </button>
      </div>
    </div>
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
      @back="takeBack"
      @away="removal.last.value = []"
    />
    <form v-if="folder !== null" class="bar" @submit.prevent="readFolder">
      <label for="folder">Folder on this machine</label>
      <input id="folder" v-model="folder" class="boxed wide" placeholder="/home/me/trip" autocomplete="off" />
      <ElButton native-type="submit" :disabled="!folder || reading.running.value"
        >Read it where it lies</ElButton
      >
    </form>
    <p v-if="error || problem || reading.problem.value" class="problem" role="alert">
      {{ problem || reading.problem.value || (error as Error).message }}
    </p>
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
    <ArrivalList :arrivals="arrivals" @away="(n) => arrivals.splice(n, 1)" />
    <main>
      <FrameCompare
        v-if="looking && large.length"
        :outing="outing!.id"
        :frames="large"
        :close="looking !== 'one'"
        @sort="sort"
        @begin="begin"
      />
      <div
        v-else
        class="table"
        :class="{ over, overview }"
        @dragover.prevent="over = true"
        @dragleave="over = false"
        @drop.prevent="
          over = false;
          bring($event.dataTransfer?.files);
        "
      >
        <p v-if="outing && !outing.frames.length" class="empty">
          No frames yet. Drop the raw files of one trip here, read a folder, or connect the field camera; then
          choose the one worth the evening.
        </p>
        <p v-else-if="outing && !shown.length" class="empty">Nothing lies on this heap.</p>
        <section
          v-for="block in table"
          :key="block.key"
          class="block"
          :class="{ group: block.group }"
          :aria-label="block.group ? groupName(block.group, block.frames.length) : undefined"
        >
          <header v-if="block.group">
            <h2>{{ groupName(block.group, block.frames.length) }}</h2>
            <span v-for="(s, n) in block.group.said" :key="n" class="quiet said" :title="s">{{ s }}</span>
            <button class="plain" type="button" @click="chooseAll(block.frames)">Side by side</button>
            <button class="plain" type="button" @click="apart(block.group)">Take apart</button>
          </header>
          <div class="tiles">
            <FrameTile
              v-for="f in block.frames"
              :key="f.id"
              :frame="f"
              :chosen="chosen.includes(f.id)"
              :current="f.id === current?.id"
              @focusin="currentId = f.id"
              @look="look(f)"
              @choose="choose(f.id)"
              @begin="begin(f)"
              @remove-scene="(id) => remove('scene', [id])"
            />
          </div>
        </section>
        <p v-if="outing && outing.frames.length < outing.count" ref="more" class="quiet">
          {{ outing.frames.length }} of {{ frames(outing.count) }} …
        </p>
      </div>
      <KeySheet v-if="keys" label="Keys" :rows="SHEET" />
      <FieldCamera v-if="camera && outing" :outing="outing.id" @arrived="renew" @close="camera = false" />
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
  display: flex;
  align-items: center;
  justify-content: space-between;
  height: 46px;
  flex: none;
  padding: 0 14px;
  border-bottom: 1px solid var(--line);
}
h1 {
  font-size: 16px;
  font-weight: 600;
  width: 240px;
}
.gather > header > button {
  margin-left: 160px;
}
.bar {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 14px;
  border-bottom: 1px solid var(--line);
}
.heaps {
  display: flex;
  margin-left: 18px;
}
.right {
  display: flex;
  align-items: center;
  margin-left: auto;
}
.wide {
  width: 420px;
}
main {
  position: relative;
  flex: 1;
  min-height: 0;
  display: flex;
}
.table {
  flex: 1;
  overflow: auto;
  padding: 12px 14px;
  background: #f4f4f4;
  display: flex;
  flex-wrap: wrap;
  align-content: flex-start;
  gap: 14px;
}
.table.over {
  outline: 3px solid var(--accent);
  outline-offset: -6px;
}
.table.overview {
  gap: 6px;
}
.table.overview :deep(.tile) {
  width: 122px;
}
.table.overview :deep(.look) {
  height: 96px;
  padding: 4px;
}
.table.overview :deep(.detail) {
  display: none;
}
.table.overview :deep(.heap) {
  top: 2px;
  right: 2px;
}
.table.overview .tiles {
  gap: 4px;
}
.table.overview .block.group {
  padding: 0 5px 2px;
}
.empty {
  width: 100%;
  padding: 60px 0;
  text-align: center;
  font-size: 15px;
}
.block.group {
  border: 1px solid #b0b0b0;
  background: var(--panel);
  padding: 4px 8px 6px;
}
.block > header {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 30px;
}
.block h2 {
  font-weight: 600;
}
.said {
  max-width: 300px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.tiles {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
}
</style>
