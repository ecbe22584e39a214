<script setup lang="ts">
/** The meeting of the two wings: how far apart they lie, what is plausible, one line that would do it. */
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";

import { client, need, type MoveLine, type ParamField, type Schemas } from "../api/client";
import { useScene } from "../stores/scene";
import InlineNumber from "./InlineNumber.vue";

const props = defineProps<{ wings: string[]; distance: number | null }>();
const scene = useScene();
const AIM: ParamField = {
  name: "aim", kind: "number", label: "Aim", unit: "stops", low: -2, high: 8, step: 0.1, decimals: 1,
  default: 2.5, signed: false, shown_times: 1, hint: "", automatic: "", words: {}, items: [],
}; // prettier-ignore
const met = ref<Schemas["Meeting"] | null>(null);
const aim = ref<number | null>(null);
/** The proposed line stands in the document, not saved, until it is taken or left. */
const tried = ref("");
let asked = 0;
const stands = computed(() => tried.value !== "" && scene.moves.some((m) => m.id === tried.value));

async function ask(to: number | null): Promise<void> {
  if (!scene.opened || props.wings.length !== 2) return;
  const mine = ++asked;
  const document = scene.current() as { moves: { id: string }[] };
  document.moves = document.moves.filter((m) => m.id !== tried.value);
  const got = await need(
    client.POST("/api/scenes/{scene_id}/meeting", {
      params: { path: { scene_id: scene.opened.id } },
      body: { document: document as never, wings: props.wings, aim: to },
    }),
  ).catch((error: Error) => {
    if (to !== null) scene.problem = error.message;
    return null;
  });
  if (mine !== asked) return;
  met.value = got as Schemas["Meeting"] | null;
  if (to !== null && got?.proposal) show(got.proposal.line as unknown as MoveLine);
}
function show(line: MoveLine): void {
  const moves = scene.document!.moves!;
  const n = moves.findIndex((m) => m.id === tried.value);
  const held = { ...line, id: tried.value || crypto.randomUUID() };
  tried.value = held.id;
  if (n < 0) moves.push(held as never);
  else moves.splice(n, 1, held as never);
  scene.tryOut();
}
function change(to: number): void {
  aim.value = to;
  void ask(to);
}
function bring(): void {
  const m = met.value;
  if (!m) return;
  const [low, high] = m.aim as [number, number];
  const to = m.distance < low ? low : m.distance > high ? high : (low + high) / 2;
  change(Math.round(to * 10) / 10);
}
function take(): void {
  if (!stands.value) return;
  letGo();
  void scene.commit(`The meeting brought to ${met.value?.proposal?.lands.toFixed(1)} stops`);
}
function letGo(): void {
  asked++; // what is still on its way comes too late
  tried.value = "";
  aim.value = null;
}
function leave(): void {
  if (aim.value === null) return;
  const line = tried.value;
  const stood = stands.value;
  letGo();
  if (!stood) return;
  // something else may have been saved meanwhile, and the line with it
  const saved = (scene.revision?.document.moves ?? []) as { id?: string }[];
  if (saved.some((m) => m.id === line)) {
    scene.document!.moves = scene.moves.filter((m) => m.id !== line) as never;
    void scene.commit("The proposed line left");
  } else scene.restore();
}
// an undo may have taken the line along
watch(stands, (now) => {
  if (!now && tried.value) letGo();
});
function key(e: KeyboardEvent): void {
  if (aim.value === null) return;
  if (e.key === "Enter" && !(e.target as HTMLElement).closest("input, button")) take();
  else if (e.key === "Escape") leave();
  else return;
  e.preventDefault();
  e.stopPropagation();
}
onMounted(() => window.addEventListener("keydown", key, true));
onBeforeUnmount(() => {
  window.removeEventListener("keydown", key, true);
  leave();
});
watch(
  () => props.wings.join(),
  () => {
    leave();
    met.value = null;
    void ask(null);
  },
  { immediate: true },
);
let soon = 0;
watch(
  () => props.distance,
  () => {
    window.clearTimeout(soon);
    soon = window.setTimeout(() => {
      if (aim.value === null) void ask(null);
    }, 600);
  },
);
</script>

<template>
  <div class="brought">
    <p v-if="met" class="quiet" :title="met.why">
      aim
      <InlineNumber
        v-if="aim !== null"
        :field="AIM"
        :value="aim"
        name="Aim of the meeting"
        @change="change"
      />
      <button v-else class="plain numeral" type="button" @click="bring">
        {{ met.aim[0] }}–{{ met.aim[1] }}
      </button>
    </p>
    <template v-if="stands && met?.proposal">
      <p class="said">{{ met.proposal.said }}</p>
      <button class="plain" type="button" @click="take">Take it</button>
      <button class="plain" type="button" @click="leave">Leave it</button>
    </template>
  </div>
</template>

<style scoped>
.brought {
  text-align: center;
}
.said {
  font-size: 11px;
}
button {
  text-decoration: underline;
}
</style>
