<script setup lang="ts">
/** A latch opened: its ingredients as rows that read downward, and how the whole is finished. */
import { computed, watch } from "vue";

import { useHolds } from "../composables/holds";
import { MASK_LOOKS } from "../model/tint";
import { deciding } from "../model/why";
import type { Values } from "../model/wording";
import { useHabits } from "../stores/habits";
import { useScene } from "../stores/scene";
import { holders } from "../stores/scene/latches";
import { useView } from "../stores/view";
import IngredientRow from "./IngredientRow.vue";
import ParamControls from "./ParamControls.vue";
import TypedLine from "./TypedLine.vue";

const scene = useScene();
const view = useView();
const habits = useHabits();
const latch = computed(() => scene.latch!);
const edge = computed(() => latch.value.edge_true as unknown as Values & { on: boolean });
const inUse = computed(() => holders(scene.document!, latch.value.id).length);

function rename(name: string): void {
  if (!name) return;
  latch.value.name = name;
  void scene.commit(`latch named ${name}`);
}
// of one ingredient there is nothing else to look at
watch(
  () => scene.openLatch,
  () => {
    const rows = latch.value.ingredients;
    if (rows.length === 1) scene.openIngredient = rows[0]!.id!;
  },
  { immediate: true },
);
// what was said of another latch is not true of this one
watch([() => scene.openLatch, () => scene.tick], () => (view.why = null), { immediate: true });
const decides = computed(() => {
  const said = view.why?.ingredients ?? {};
  return deciding(
    latch.value.ingredients
      .filter((i) => i.on && said[i.id!] !== undefined)
      .map((i) => ({ id: i.id!, join: i.join!, value: said[i.id!]! })),
  );
});
const held = useHolds();
const sentenceOf = (words: string) => `${words[0]!.toUpperCase()}${words.slice(1)}.`;
function removeLatch(): void {
  const gone = latch.value;
  scene.document!.latches = scene.latches.filter((l) => l.id !== gone.id);
  scene.openLatch = null;
  void scene.commit(`removed latch ${gone.name}`);
}
/** A row dropped beside the others: a copy of it. */
function copied(e: DragEvent): void {
  const one = e.dataTransfer?.getData("text/ingredient");
  if (one) scene.copyIngredient(one);
}
function readAgain(): void {
  latch.value.read_at = scene.readAt();
  void scene.commit(`${latch.value.name} read again`);
}
</script>

<template>
  <section class="latch" aria-label="Latch">
    <header>
      <button class="plain" type="button" @click="scene.openLatch = null">‹ Ledger</button>
      <label class="hidden-label" for="latch-name">Name of the latch</label>
      <TypedLine id="latch-name" class="boxed name" :value="latch.name" @done="rename" />
    </header>
    <p v-if="!latch.ingredients.length" class="quiet pad">
      An empty latch holds nothing. Begin with an ingredient.
    </p>
    <ul v-else aria-label="Ingredients">
      <IngredientRow
        v-for="(line, n) in latch.ingredients"
        :key="line.id"
        :line="line"
        :index="n"
        :value="view.why?.ingredients[line.id!] ?? null"
        :decides="decides === line.id"
        :remark="held?.remarks[line.id!]"
        :asks="held?.asks[line.id!]"
      />
    </ul>
    <p v-if="held?.empty && !Object.keys(held.asks).length" class="pad empty" role="status">
      {{ sentenceOf(held.empty) }}
    </p>
    <p v-if="view.why" class="quiet why" role="status">
      Here the latch holds <b class="numeral">{{ Math.round(view.why.result * 100) }} %</b>
    </p>
    <div class="new" @dragover.prevent @drop.prevent="copied">
      <span class="quiet">Ingredient</span>
      <button
        v-for="k in scene.ingredientKinds"
        :key="k.kind"
        class="plain"
        type="button"
        @click="scene.addIngredient(k, latch.ingredients?.length && k.kind !== 'hand' ? 'keep_only' : 'add')"
      >
        + {{ k.label }}
      </button>
    </div>
    <div class="finish">
      <label
        ><input
          v-model="edge.on"
          type="checkbox"
          :disabled="latch.fine_edges"
          @change="scene.commit(`${latch.name} ${edge.on ? '' : 'not '}edge-true`)"
        />
        Edge-true</label
      >
      <label title="Matted twig by twig; takes some seconds"
        ><input
          v-model="latch.fine_edges"
          type="checkbox"
          @change="
            scene.commit(`${latch.name} ${latch.fine_edges ? 'follows' : 'does not follow'} fine edges`)
          "
        />
        Follow fine edges</label
      >
      <label
        ><input v-model="latch.invert" type="checkbox" @change="scene.commit(`${latch.name} inverted`)" />
        Invert the whole</label
      >
      <ParamControls
        v-if="edge.on && !latch.fine_edges"
        :fields="scene.vocabulary?.edge_true ?? []"
        :values="edge"
        :scope="`${latch.id}-e`"
        @commit="scene.commit(`Edge of ${latch.name}`)"
      />
      <ParamControls
        :fields="scene.vocabulary?.latch_finish ?? []"
        :values="latch as unknown as Values"
        :scope="`${latch.id}-s`"
        @commit="scene.commit(`${$event} of ${latch.name}`)"
      />
      <fieldset>
        <legend>Shown as</legend>
        <label v-for="(word, key) in MASK_LOOKS" :key="key" :class="{ on: view.look === key }"
          ><input v-model="view.look" class="hidden-label" type="radio" :value="key" />{{ word }}</label
        >
      </fieldset>
      <button class="plain" type="button" @click="readAgain">Read the picture again</button>
      <button class="plain" type="button" @click="scene.copyLatch(latch.id)">Twice</button>
      <button
        class="plain"
        type="button"
        title="To be found anew on another frame"
        @click="habits.keep(latch.id)"
      >
        {{ habits.ofLatches.some((h) => h.name === latch.name) ? "Keep the habit anew" : "Keep as a habit" }}
      </button>
      <button class="plain" type="button" :disabled="inUse > 0" @click="removeLatch">
        {{ inUse ? `In use ${inUse === 1 ? "once" : `${inUse} times`}` : "Remove latch" }}
      </button>
    </div>
    <div class="verbs">
      <span class="quiet">Latch a move</span>
      <button
        v-for="k in scene.lightKinds"
        :key="k.kind"
        class="plain"
        type="button"
        @click="
          scene.addMove(k, {}, latch.id);
          scene.openLatch = null;
        "
      >
        + {{ k.label }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.latch {
  flex: 1;
  overflow: auto;
}
header {
  display: flex;
  gap: 6px;
  padding: 8px;
}
.name {
  flex: 1;
  font-weight: 600;
  min-width: 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.pad,
.why {
  padding: 4px 10px;
}
.empty {
  font-weight: 600;
}
.new,
.verbs,
.finish {
  border-top: 1px solid var(--line);
  padding: 6px 10px;
}
fieldset {
  border: 0;
  padding: 4px 0;
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}
fieldset label {
  padding: 3px 6px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  cursor: pointer;
}
fieldset label.on {
  background: var(--accent-soft);
  border-color: var(--accent);
}
fieldset label:focus-within {
  outline: 2px solid var(--accent);
}
.finish > label {
  margin-right: 10px;
  white-space: nowrap;
}
</style>
