<script setup lang="ts">
/** The ledger at Light: the bands below folded to sentences, the lines of Light, and the line that adds. */
import { computed, onMounted, ref, watch } from "vue";

import { client, type Kind, type ParamField } from "../api/client";
import { typedMove, within, type TypedMove } from "../model/wording";
import { useDodging } from "../composables/dodging";
import { useHabits } from "../stores/habits";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import BandsFolded from "./BandsFolded.vue";
import HabitRow from "./HabitRow.vue";
import InlineNumber from "./InlineNumber.vue";
import LedgerBand from "./LedgerBand.vue";
import WrongHere from "./WrongHere.vue";

const scene = useScene();
const view = useView();
const habits = useHabits();
const dodging = useDodging();
onMounted(() => void habits.load());
const text = ref("");
const said = ref("");
/** Moves by the question they answer. */
const asked = computed(() => {
  const by: Record<string, Kind[]> = {};
  for (const k of scene.lightKinds) (by[k.group] ??= []).push(k);
  return by;
});

/** All of Light together, weaker: every line's strength times the same. */
const EASE: ParamField = {
  name: "ease", kind: "number", label: "Ease off", unit: "%", low: 0, high: 1.5, step: 0.05, decimals: 0,
  default: 1, signed: false, shown_times: 100, hint: "", automatic: "", bygone: false, words: {}, items: [],
}; // prettier-ignore
const ease = ref(1);
let before: number[] = [];
function easing(to: number): void {
  if (!before.length) before = scene.moves.map((m) => m.strength ?? 1);
  ease.value = to;
  const strength = scene.vocabulary!.move_strength;
  scene.moves.forEach((m, n) => (m.strength = within(strength, before[n]! * to)));
  scene.touched();
}
// an Escape in mid-drag puts the strengths back
watch(
  () => scene.dragging,
  (dragging) => {
    if (dragging) return;
    before = [];
    ease.value = 1;
  },
);
function eased(): void {
  void scene.commit(`Light eased off to ${Math.round(ease.value * 100)} %`);
}
const remarks = ref<Record<string, string>>({});
let turn = 0;
watch(
  () => scene.tick,
  async () => {
    if (!scene.opened || scene.dragging || !scene.moves.length) return;
    const mine = ++turn;
    const got = await client
      .POST("/api/scenes/{scene_id}/remarks", {
        params: { path: { scene_id: scene.opened.id } },
        body: { document: scene.current() },
      })
      .catch(() => null);
    if (mine === turn && got?.data) remarks.value = got.data;
  },
  { immediate: true },
);
function keepAll(): void {
  const name = `Light of ${scene.opened!.name}`;
  void habits.keepMoves(
    scene.moves.map((m) => m.id),
    name,
  );
}
/** A move that was written for a latch that is not there; what the latch could be made of, where its name says so. */
const missing = ref<(TypedMove & { make: Kind | null }) | null>(null);
function done(): void {
  said.value = text.value = "";
  missing.value = null;
}
/** Make the latch, and the move on it. */
function makeLatch(): void {
  const { kind, values, make } = missing.value!;
  done();
  scene.openMove = null; // the latch is for the move that was written, not for one that is open
  scene.addLatch(make!);
  scene.addMove(kind, values, scene.openLatch);
  scene.openLatch = null;
}
function everywhere(): void {
  const { kind, values } = missing.value!;
  done();
  scene.addMove(kind, values);
}

function add(): void {
  const move = typedMove(text.value, scene.lightKinds, scene.latches);
  if (!move) {
    said.value = `Begin with a verb: ${scene.lightKinds.flatMap((k) => k.verbs?.slice(0, 1) ?? []).join(", ")} …`;
    return;
  }
  if (move.unknown) {
    // held nowhere it would act on the whole picture, which is not what was written
    const kind = scene.ingredientKinds.find((k) => k.label.toLowerCase() === move.unknown);
    missing.value = { ...move, make: kind ?? null };
    said.value = `There is no latch called “${move.unknown}”.`;
    return;
  }
  done();
  scene.addMove(move.kind, move.values, move.latch);
}
</script>

<template>
  <section class="ledger" aria-label="Ledger">
    <BandsFolded at="Light" side="under" />
    <!-- above the lines: what is tried is added below, and this must not move under the pointer -->
    <WrongHere v-if="view.wrong" />
    <LedgerBand name="Light" :moves="scene.moves" :kinds="scene.lightKinds" :remarks="remarks">
      <template v-if="scene.moves.length" #head
        >Ease off <InlineNumber :field="EASE" :value="ease" name="Ease off" @change="easing" @commit="eased"
      /></template>
    </LedgerBand>
    <form class="add" @submit.prevent="add">
      <label class="hidden-label" for="add-move">Add a move</label>
      <input
        id="add-move"
        v-model="text"
        class="boxed"
        placeholder="Add a move: burn sky 0.9"
        autocomplete="off"
      />
      <div class="verbs">
        <button
          class="plain"
          type="button"
          :aria-pressed="view.tool === 'wrong'"
          @click="view.tool = view.tool === 'wrong' ? '' : 'wrong'"
        >
          What is wrong where?
        </button>
        <button class="plain" type="button" @click="dodging.paint('Dodge', 0.5)">Dodge</button>
        <button class="plain" type="button" @click="dodging.paint('Burn', -0.5)">Burn</button>
      </div>
      <details v-for="(kinds, question) in asked" :key="question" :open="!scene.moves.length">
        <summary>{{ question }}</summary>
        <button v-for="k in kinds" :key="k.kind" class="plain" type="button" @click="scene.addMove(k)">
          + {{ k.label }}
        </button>
      </details>
      <HabitRow :habits="habits.ofMoves" @use="habits.useMoves" />
      <button v-if="scene.moves.length > 1" class="plain" type="button" @click="keepAll">
        Keep all of Light as a habit
      </button>
      <p v-if="said" class="problem" role="status">
        {{ said }}
        <template v-if="missing">
          <button v-if="missing.make" class="plain" type="button" @click="makeLatch">
            Make it: {{ missing.make.label }}
          </button>
          <button class="plain" type="button" @click="everywhere">{{ missing.kind.label }} everywhere</button>
        </template>
      </p>
      <p v-else-if="!scene.moves.length" class="quiet">
        Hold the sky first: make a latch below, then write what its light should do.
      </p>
    </form>
    <BandsFolded at="Light" side="over" />
  </section>
</template>

<style scoped>
.ledger {
  flex: 1;
  overflow: auto;
}
.add {
  padding: 8px 10px 12px;
  border-top: 1px solid var(--line);
}
.add .boxed {
  width: 100%;
}
details {
  border-top: 1px solid var(--line);
}
summary {
  cursor: pointer;
  padding: 4px 0;
  color: var(--ink-2);
}
.verbs {
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 4px 0;
}
</style>
