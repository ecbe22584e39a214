<script setup lang="ts">
/** A latch opened: its ingredients as rows that read downward, and how the whole is finished. */
import { ElButton, ElCheckbox, ElDropdownItem, ElDropdownMenu, ElPopover } from "element-plus";
import { computed, ref, watch } from "vue";

import type { Kind } from "../api/client";
import { useInHand } from "../composables/inhand";

import { useHolds } from "../composables/holds";
import { MASK_LOOKS } from "../model/tint";
import { deciding } from "../model/why";
import { useHabits } from "../stores/habits";
import { useScene } from "../stores/scene";
import { holders } from "../stores/scene/latches";
import { useView } from "../stores/view";
import ChoiceBox from "../ui/ChoiceBox.vue";
import GlyphMark from "../ui/GlyphMark.vue";
import PickSheet from "../ui/PickSheet.vue";
import { GROUPS } from "../stations/light/groups";
import IngredientRow from "./IngredientRow.vue";
import ParamControls from "../scene/ParamControls.vue";
import TypedLine from "../ui/TypedLine.vue";
import KindItems from "../ui/KindItems.vue";
import MenuBox from "../ui/MenuBox.vue";

const scene = useScene();
const view = useView();
const habits = useHabits();
const latch = computed(() => scene.latch!);
const edge = computed(() => latch.value.edge_true);
const inUse = computed(() => holders(scene.document!, latch.value.id).length);

function rename(name: string): void {
  if (!name) return;
  latch.value.name = name;
  void scene.commit(`Rename latch ${name}`);
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
  scene.openLatch = null;
  void scene.edit(`Remove latch ${gone.name}`, (draft) => {
    draft.latches = draft.latches.filter((l) => l.id !== gone.id);
  });
}
/** A row dropped beside the others: a copy of it. */
function copied(e: DragEvent): void {
  const one = e.dataTransfer?.getData("text/ingredient");
  if (one) scene.copyIngredient(one);
}
const choosing = ref(false);
const inHand = useInHand();
function add(kind: Kind): void {
  choosing.value = false;
  scene.addIngredient(kind, latch.value.ingredients?.length && kind.kind !== "hand" ? "keep_only" : "add");
  void inHand.take(kind.kind);
}
/** How its edge is drawn: one choice. */
const EDGES = [
  { value: "drawn", label: "as drawn" },
  { value: "snapped", label: "snapped to edges" },
  { value: "fine", label: "fine detail (slow)" },
];
const edges = computed(() => (latch.value.fine_edges ? "fine" : edge.value.on ? "snapped" : "drawn"));
function drawn(how: string): void {
  latch.value.fine_edges = how === "fine";
  edge.value.on = how === "snapped";
  void scene.commit(`Edges of ${latch.value.name}`);
}
const known = computed(() => habits.ofLatches.some((h) => h.name === latch.value.name));
function act(what: string): void {
  if (what === "copy") scene.copyLatch(latch.value.id);
  else if (what === "again") readAgain();
  else if (what === "habit") void habits.keep(latch.value.id);
  else removeLatch();
}
function use(kind: Kind): void {
  scene.addMove(kind, {}, latch.value.id);
  scene.openLatch = null;
}
function readAgain(): void {
  latch.value.read_at = scene.readAt();
  void scene.commit(`Update ${latch.value.name}`);
}
</script>

<template>
  <section class="latch" aria-label="Latch">
    <header>
      <button class="plain" type="button" aria-label="Back to the ledger" @click="scene.openLatch = null">
        <GlyphMark name="left" />
      </button>
      <label class="hidden-label" for="latch-name">Name of the latch</label>
      <TypedLine id="latch-name" class="boxed name" :value="latch.name" @done="rename" />
      <MenuBox @command="act">
        <button class="plain" type="button" aria-label="Latch: more"><GlyphMark name="more" /></button>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem command="copy">Duplicate</ElDropdownItem>
            <ElDropdownItem command="again">Update from the current picture</ElDropdownItem>
            <ElDropdownItem command="habit">{{ known ? "Update habit" : "Save as habit" }}</ElDropdownItem>
            <ElDropdownItem divided command="remove" :disabled="inUse > 0">{{
              inUse ? `Remove (used by ${inUse} ${inUse === 1 ? "line" : "lines"})` : "Remove latch"
            }}</ElDropdownItem>
          </ElDropdownMenu>
        </template>
      </MenuBox>
    </header>
    <p v-if="!latch.ingredients.length" class="quiet pad">An empty latch holds nothing. Add an ingredient.</p>
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
    <div class="new" @dragover.prevent @drop.prevent="copied">
      <ElPopover :visible="choosing" placement="right-start" width="auto" :persistent="false">
        <template #reference>
          <ElButton size="small" :aria-expanded="choosing" @click="choosing = !choosing"
            ><GlyphMark name="add" />&ensp;Add ingredient</ElButton
          >
        </template>
        <PickSheet
          :kinds="scene.ingredientKinds"
          :order="GROUPS"
          asks="What should it add or keep?"
          about="ingredients"
          @pick="add"
          @close="choosing = false"
        />
      </ElPopover>
      <span class="quiet why" role="status"
        ><template v-if="view.why"
          >Mask here: <b class="numeral">{{ Math.round(view.why.result * 100) }} %</b></template
        ></span
      >
    </div>
    <div class="finish">
      <div class="row">
        <span>Edges</span>
        <ChoiceBox label="Edges" :value="edges" :options="EDGES" @choose="drawn" />
      </div>
      <ParamControls
        v-if="edges === 'snapped'"
        :fields="scene.vocabulary?.edge_true ?? []"
        :values="edge"
        :scope="`${latch.id}-e`"
        @commit="scene.commit(`Edge of ${latch.name}`)"
      />
      <ParamControls
        :fields="scene.vocabulary?.latch_finish ?? []"
        :values="latch"
        :scope="`${latch.id}-s`"
        @commit="scene.commit(`${$event} of ${latch.name}`)"
      />
      <ElCheckbox
        v-model="latch.invert"
        size="small"
        label="Invert mask"
        @change="scene.commit(`Invert ${latch.name}`)"
      />
      <div class="row">
        <span>Shown as</span>
        <div class="looks" role="radiogroup" aria-label="Shown as">
          <label v-for="(word, key) in MASK_LOOKS" :key="key" :class="{ on: view.look === key }"
            ><input v-model="view.look" class="hidden-label" type="radio" :value="key" />{{ word }}</label
          >
        </div>
      </div>
    </div>
    <div class="use">
      <MenuBox max-height="420" @command="use">
        <ElButton type="primary" size="small">Edit what it holds&ensp;<GlyphMark name="down" /></ElButton>
        <template #dropdown><KindItems :kinds="scene.lightKinds" /></template>
      </MenuBox>
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
  padding: 8px 12px;
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
.pad {
  padding: 4px 12px;
}
.empty {
  font-weight: 600;
}
.new,
.use,
.finish {
  border-top: 1px solid var(--line);
  padding: 8px 12px;
}
.new {
  display: flex;
  align-items: center;
  gap: 8px;
}
.why {
  margin-left: auto;
}
.row {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr);
  align-items: center;
  gap: 6px;
  min-height: 28px;
}
.looks {
  display: flex;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--leaf);
  font-size: 12px;
}
.looks label {
  flex: auto;
  padding: 4px 5px;
  border-right: 1px solid var(--line);
  text-align: center;
  white-space: nowrap;
  cursor: pointer;
}
.looks label:last-child {
  border-right: 0;
}
.looks label.on {
  background: var(--accent-soft);
  font-weight: 600;
}
@media (max-width: 1199px) {
  .looks {
    margin-left: -14px;
  }
  .looks label {
    padding: 4px 3px;
  }
}
.looks label:focus-within {
  outline: 2px solid var(--accent);
}
</style>
