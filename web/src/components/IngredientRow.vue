<script setup lang="ts">
/** One ingredient of the opened latch: how it joins, its picture, its sentence, its settings under it. */
import { ElSwitch } from "element-plus";
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import { sentence, type Values } from "../model/wording";
import { useScene } from "../stores/scene";
import ColourTools from "./ColourTools.vue";
import FoundTools from "./FoundTools.vue";
import HandTools from "./HandTools.vue";
import MaskPicture from "./MaskPicture.vue";
import ParamControls from "./ParamControls.vue";
import PlacedTools from "./PlacedTools.vue";

const props = defineProps<{
  line: IngredientLine;
  index: number;
  value: number | null;
  decides: boolean;
  remark?: string;
  /** What is to be asked of it: it was found, but not surely. */
  asks?: string;
}>();
const scene = useScene();
const kind = computed(() => scene.ingredientKinds.find((k) => k.kind === props.line.kind)!);
const latch = computed(() => scene.latch!);
const open = computed(() => scene.openIngredient === props.line.id);
const values = computed(() => props.line.params as unknown as Values);
const said = computed(() => {
  const shown = { ...values.value };
  if (props.line.kind === "another") shown.latch = scene.nameOf(shown.latch as string) || "";
  return sentence(kind.value, shown) + (props.line.invert ? ", inverted" : "");
});
const HINTS: Record<string, string> = {
  ramp: "Drag its two ends on the picture.",
  pool: "Drag its middle, its end and its side on the picture; with Alt, its middle is a copy.",
  outline: "Click its points on the picture, Shift for a sharp corner; Enter on a point turns it.",
  sky: "Found in the frame itself; it stays found when anything else changes.",
  water: "Found in the frame itself. It errs more than Sky does: mark what is wrong.",
  subject: "A rough box is enough. Without one, what the eye goes to is taken.",
};

function set(values: Partial<IngredientLine>, words: string): void {
  // the line is the document's own
  Object.assign(latch.value.ingredients[props.index]!, values);
  void scene.commit(`${kind.value.label} ${words}`);
}
function say(answer: "yes" | "no"): void {
  Object.assign(props.line.params as object, { answer });
  void scene.commit(`${kind.value.label}: ${answer === "yes" ? "it is there" : "it is not there"}`);
}
function drop(): void {
  latch.value.ingredients.splice(props.index, 1);
  void scene.commit(`${kind.value.label} out of ${latch.value.name}`);
}
function shift(by: number): void {
  const all = latch.value.ingredients;
  all.splice(props.index + by, 0, ...all.splice(props.index, 1));
  void scene.commit(`${kind.value.label} moved ${by < 0 ? "up" : "down"}`);
}
function twice(): void {
  scene.copyIngredient(props.line.id!);
}
/** Dropped on another row, an ingredient stands in its place; dropped beside the rows, it is there twice. */
const joinOf = (e: Event) => (e.target as HTMLSelectElement).value as IngredientLine["join"];
function lift(e: DragEvent): void {
  e.dataTransfer?.setData("text/ingredient", props.line.id!);
}
function dropped(e: DragEvent): void {
  const all = latch.value.ingredients;
  const from = all.findIndex((i) => i.id === e.dataTransfer?.getData("text/ingredient"));
  if (from < 0 || from === props.index) return;
  all.splice(props.index, 0, ...all.splice(from, 1));
  void scene.commit("An ingredient moved");
}
</script>

<template>
  <li :class="{ open }" @dragover.prevent @drop.prevent="dropped">
    <div class="row">
      <select
        class="boxed join"
        :aria-label="`How ${kind.label} joins`"
        :value="line.join"
        @change="set({ join: joinOf($event) }, 'joins anew')"
      >
        <option v-for="(word, key) in scene.vocabulary?.joins" :key="key" :value="key">{{ word }}</option>
      </select>
      <MaskPicture
        :latch="latch.id"
        :ingredient="line.id!"
        :size="40"
        class="grip"
        draggable="true"
        @dragstart="lift"
      />
      <button
        class="plain sentence"
        type="button"
        :aria-expanded="open"
        @click="scene.openIngredient = open ? null : line.id!"
      >
        <span class="fold" aria-hidden="true">{{ open ? "▾" : "▸" }}</span> {{ said }}
      </button>
      <span v-if="value !== null" class="numeral value" :class="{ decides }">{{
        Math.round(value * 100)
      }}</span>
      <ElSwitch
        :model-value="line.on"
        size="small"
        :aria-label="`${kind.label} on or off`"
        @change="set({ on: $event as boolean }, $event ? 'on' : 'off')"
      />
    </div>
    <p v-if="asks" class="asks" role="status">
      {{ asks }}
      <button class="plain" type="button" @click="say('yes')">Yes</button>
      <button class="plain" type="button" @click="say('no')">No</button>
    </p>
    <div v-if="open" class="body">
      <ColourTools v-if="line.kind === 'colour'" :line="line" />
      <HandTools v-if="line.kind === 'hand'" :line="line" />
      <FoundTools v-if="'marks' in values" :line="line" />
      <PlacedTools v-if="['ramp', 'pool', 'outline', 'kin'].includes(line.kind)" :line="line" />
      <ParamControls
        :fields="kind.fields.filter((f) => f.name !== 'answer' || values.answer !== 'found')"
        :values="values"
        :scope="line.id!"
        @commit="scene.commit(`${kind.label} of ${latch.name}`)"
      />
      <p v-if="line.found && line.found.finder !== kind.finder">
        As it was found when this scene was saved; there is a newer way of finding.
        <button
          class="plain"
          type="button"
          @click="set({ revision: kind.revision, found: null }, 'found anew')"
        >
          Find anew
        </button>
      </p>
      <p v-if="remark" class="remark" role="status">{{ remark }}.</p>
      <p v-if="HINTS[line.kind]" class="quiet">{{ HINTS[line.kind] }}</p>
      <div class="acts">
        <label
          ><input
            type="checkbox"
            :checked="line.invert"
            @change="set({ invert: !line.invert }, 'inverted')"
          />inverted</label
        >
        <button class="plain" type="button" :disabled="index === 0" aria-label="Move up" @click="shift(-1)">
          ↑
        </button>
        <button
          class="plain"
          type="button"
          :disabled="index === latch.ingredients.length - 1"
          aria-label="Move down"
          @click="shift(1)"
        >
          ↓
        </button>
        <button class="plain" type="button" @click="twice">Twice</button>
        <button class="plain" type="button" @click="drop">Take out</button>
      </div>
    </div>
  </li>
</template>

<style scoped>
li {
  border-top: 1px solid var(--line);
  padding: 4px 8px;
}
li.open {
  background: var(--leaf);
  box-shadow: inset 3px 0 0 var(--accent);
}
.row {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 44px;
}
.join {
  width: 92px;
}
.sentence {
  flex: 1;
  min-width: 0;
  text-align: left;
  padding: 3px 0;
}
.fold {
  color: var(--ink-2);
}
.sentence:hover .fold {
  color: var(--ink);
}
.grip {
  cursor: grab;
}
.value {
  min-width: 24px;
  text-align: right;
  color: var(--ink-2);
}
.value.decides {
  color: var(--ink);
  font-weight: 700;
}
.asks {
  font-weight: 600;
}
.asks .plain {
  margin-left: 4px;
}
.remark {
  font-weight: 600;
}
.acts {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
}
.acts label {
  margin-right: auto;
}
</style>
