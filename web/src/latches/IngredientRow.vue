<script setup lang="ts">
/** One ingredient of the opened latch: how it joins, its picture, its sentence, its settings under it. */
import { ElDropdownItem, ElDropdownMenu, ElSwitch } from "element-plus";
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import { sentence, type Values } from "../model/wording";
import { useScene } from "../stores/scene";
import ChoiceBox from "../ui/ChoiceBox.vue";
import GlyphMark from "../ui/GlyphMark.vue";
import ColourTools from "./ColourTools.vue";
import FoundTools from "./FoundTools.vue";
import HandTools from "./HandTools.vue";
import MaskPicture from "./MaskPicture.vue";
import ParamControls from "../scene/ParamControls.vue";
import PlacedTools from "./PlacedTools.vue";
import MenuBox from "../ui/MenuBox.vue";

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
const values = computed<Values>(() => props.line.params);
const said = computed(() => {
  const shown = { ...values.value };
  if (props.line.kind === "another") shown.latch = scene.nameOf(shown.latch as string) || "";
  return sentence(kind.value, shown) + (props.line.invert ? ", inverted" : "");
});
const HINTS: Record<string, string> = {
  ramp: "Drag its two ends on the picture.",
  pool: "Drag its middle, its end and its side on the picture; with Alt, its middle is a copy.",
  outline: "Click its points on the picture, Shift for a sharp corner; Enter on a point turns it.",
  sky: "Found in the frame itself; other edits do not change it.",
  water: "Less reliable than Sky: correct it with marks.",
  subject: "A rough box is enough. Without one, what the eye goes to is shown, and asked.",
};

function set(values: Partial<IngredientLine>, words: string): void {
  // the line is the document's own
  Object.assign(latch.value.ingredients[props.index]!, values);
  void scene.commit(`${kind.value.label} ${words}`);
}
function say(answer: "yes" | "no"): void {
  Object.assign(props.line.params as object, { answer });
  void scene.commit(`${answer === "yes" ? "Confirm" : "Rule out"} ${kind.value.label}`);
}
function drop(): void {
  latch.value.ingredients.splice(props.index, 1);
  void scene.commit(`Remove ${kind.value.label} from ${latch.value.name}`);
}
function act(what: string): void {
  if (what === "copy") scene.copyIngredient(props.line.id!);
  else shift(what === "up" ? -1 : 1);
}
function shift(by: number): void {
  const all = latch.value.ingredients;
  all.splice(props.index + by, 0, ...all.splice(props.index, 1));
  void scene.commit(`Move ${kind.value.label} ${by < 0 ? "up" : "down"}`);
}
/** Dropped on another row, an ingredient stands in its place; dropped beside the rows, it is there twice. */
const joins = computed(() =>
  Object.entries(scene.vocabulary?.joins ?? {}).map(([value, label]) => ({ value, label })),
);
function lift(e: DragEvent): void {
  e.dataTransfer?.setData("text/ingredient", props.line.id!);
}
function dropped(e: DragEvent): void {
  const all = latch.value.ingredients;
  const from = all.findIndex((i) => i.id === e.dataTransfer?.getData("text/ingredient"));
  if (from < 0 || from === props.index) return;
  all.splice(props.index, 0, ...all.splice(from, 1));
  void scene.commit("Move ingredient");
}
</script>

<template>
  <li :class="{ open }" @dragover.prevent @drop.prevent="dropped">
    <div class="row">
      <ChoiceBox
        class="join"
        wide="98px"
        :label="`How ${kind.label} joins`"
        :value="line.join ?? 'add'"
        :options="joins"
        @choose="set({ join: $event as IngredientLine['join'] }, 'join')"
      />
      <MaskPicture
        :latch="latch.id"
        :ingredient="line.id!"
        :size="40"
        class="grip"
        draggable="true"
        @dragstart="lift"
      />
      <button
        class="bare sentence"
        type="button"
        :aria-expanded="open"
        @click="scene.openIngredient = open ? null : line.id!"
      >
        <GlyphMark :name="open ? 'down' : 'right'" /> <span class="says">{{ said }}</span>
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
        Found by an older detector.
        <button
          class="plain"
          type="button"
          @click="set({ revision: kind.revision, found: null }, 'found again')"
        >
          Find again
        </button>
      </p>
      <p v-if="remark" class="remark" role="status">{{ remark }}.</p>
      <p v-if="HINTS[line.kind]" class="quiet">{{ HINTS[line.kind] }}</p>
      <div class="acts">
        <button
          class="plain"
          type="button"
          :aria-pressed="line.invert"
          @click="set({ invert: !line.invert }, 'inverted')"
        >
          Invert
        </button>
        <button class="plain" type="button" @click="drop">Remove</button>
        <MenuBox @command="act">
          <button class="plain" type="button" :aria-label="`${kind.label}: more`">
            <GlyphMark name="more" />
          </button>
          <template #dropdown>
            <ElDropdownMenu>
              <ElDropdownItem command="copy">Duplicate</ElDropdownItem>
              <ElDropdownItem command="up" :disabled="index === 0">Move up</ElDropdownItem>
              <ElDropdownItem command="down" :disabled="index === latch.ingredients.length - 1"
                >Move down</ElDropdownItem
              >
            </ElDropdownMenu>
          </template>
        </MenuBox>
      </div>
    </div>
  </li>
</template>

<style scoped>
li {
  border-top: 1px solid var(--line);
  padding: 0 12px;
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
  flex: none;
}
.sentence {
  flex: 1;
  justify-content: flex-start;
  min-width: 0;
  gap: 2px;
  padding: 3px 0;
  color: var(--ink);
  text-align: left;
  white-space: normal;
  line-height: 1.25;
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
  display: flex;
  align-items: center;
  gap: 6px;
  padding-bottom: 6px;
  font-weight: 600;
}
.remark {
  font-weight: 600;
}
.acts {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 6px 0 8px;
}
.acts > :last-child {
  margin-left: auto;
}
</style>
