<script setup lang="ts">
/** The meeting of the two wings: how far apart they lie, what is plausible, one line that would do it. */
import { refDebounced } from "@vueuse/core";
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";

import { client, need, type MoveLine, type ParamField } from "../api/client";
import { useAsked } from "../composables/asked";
import { useTrial } from "../composables/trial";
import { useScene } from "../stores/scene";
import InlineNumber from "../ui/InlineNumber.vue";

const props = defineProps<{ wings: string[]; distance: number | null }>();
const scene = useScene();
const AIM: ParamField = {
  name: "aim", kind: "number", label: "Aim", unit: "stops", low: -2, high: 8, step: 0.1, decimals: 1,
  default: 2.5, signed: false, shown_times: 1, hint: "", automatic: "", bygone: false, words: {}, items: [],
}; // prettier-ignore
const aim = ref<number | null>(null);
/** How far apart they lie, once that has come to rest. */
const distance = refDebounced(
  computed(() => props.distance),
  600,
);
const trial = useTrial(letGo);
const { stands } = trial;
const pair = computed(() => props.wings.join());
const id = computed(() => (props.wings.length === 2 && scene.opened?.id) || "");
const asked = useAsked(
  () => {
    // what is tried changes the distance, and is no reason to ask again
    const at = aim.value === null ? distance.value : null;
    return id.value ? { id: id.value, wings: pair.value, aim: aim.value, at } : null;
  },
  (q, signal) =>
    need(
      client.POST("/api/scenes/{scene_id}/meeting", {
        params: { path: { scene_id: q.id } },
        body: { document: trial.without(), wings: q.wings.split(","), aim: q.aim },
        signal,
      }),
    ),
  (refusal) => {
    if (!refusal) scene.notices.settle("meeting");
    else if (aim.value !== null) scene.notices.tell("meeting", refusal);
  },
);
const met = computed(() => (asked.of.value?.wings === pair.value ? asked.value.value : null));
/** What is shown is not yet the answer to the aim: it is not to be taken. */
const waiting = asked.pending;
watch(asked.value, (got) => {
  if (aim.value !== null && got?.proposal) trial.show(got.proposal.line as MoveLine);
});
function change(to: number): void {
  aim.value = to;
}
function bring(): void {
  const m = met.value;
  if (!m) return;
  const [low, high] = m.aim as [number, number];
  const to = m.distance < low ? low : m.distance > high ? high : (low + high) / 2;
  change(Math.round(to * 10) / 10);
}
function take(): void {
  if (!stands.value || waiting.value) return;
  const lands = met.value?.proposal?.lands.toFixed(1);
  letGo();
  trial.take(`Bring meeting to ${lands} stops`);
}
function letGo(): void {
  aim.value = null; // what is still on its way comes too late
}
function leave(): void {
  if (aim.value === null) return;
  letGo();
  trial.leave();
}
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
watch(pair, leave);
</script>

<template>
  <div class="brought">
    <p v-if="met" class="quiet" :data-help="met.why">
      aim
      <InlineNumber
        v-if="aim !== null"
        :field="AIM"
        :value="aim"
        name="Aim of the meeting"
        @change="change"
      />
      <button v-else class="bare numeral aim" type="button" @click="bring">
        {{ met.aim[0] }}–{{ met.aim[1] }}
      </button>
    </p>
    <template v-if="stands && met?.proposal">
      <p class="said">{{ met.proposal.description }}</p>
      <button class="plain" type="button" :disabled="waiting" @click="take">Apply</button>
      <button class="plain" type="button" @click="leave">Cancel</button>
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
.aim {
  text-decoration: underline;
}
</style>
