<script setup lang="ts">
/** Controls for declared parameters: what they are, and how far they go, comes from the core. */
import type { ParamField } from "../api/client";
import type { Values } from "../model/wording";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import { ElCheckbox } from "element-plus";

import ChoiceBox from "../ui/ChoiceBox.vue";
import SlideBar from "../ui/SlideBar.vue";
import InlineNumber from "../ui/InlineNumber.vue";
import TypedLine from "../ui/TypedLine.vue";

const props = defineProps<{
  fields: ParamField[];
  values: Values;
  scope: string;
  /** Where a slider stands while its setting is left to the program. */
  automatic?: Record<string, number | undefined>;
  /** Names of the numbers that have a slider; the others stand two in a row. All have one by default. */
  sliders?: string[];
}>();
const emit = defineEmits<{ commit: [label: string] }>();
const scene = useScene();
const view = useView();

/** What is set here: not what is drawn on the picture, nor what only older scenes had and this one has not. */
function asked(field: ParamField): boolean {
  if (field.bygone && props.values[field.name] === field.default) return false;
  return !["point", "drawn", "box"].includes(field.kind);
}

function set(field: ParamField, value: unknown): void {
  scene.put(props.values, field.name, value);
}
function choose(field: ParamField, value: unknown): void {
  set(field, value);
  emit("commit", field.label);
}
/** A colour as "#rrggbb"; what is none is put back. */
function typedColour(field: ParamField, text: string): void {
  const hex = `#${text.toLowerCase().replace(/^#/, "")}`;
  if (/^#[0-9a-f]{6}$/.test(hex)) choose(field, hex);
}
function pickColour(field: ParamField): void {
  view.tone = (hex) => choose(field, hex);
  view.tool = view.tool === "tone" ? "" : "tone";
}
/** Stored value from a slider, whose ends are the declared range. */
const at = (field: ParamField) =>
  typeof props.values[field.name] === "number"
    ? (props.values[field.name] as number)
    : (props.automatic?.[field.name] ??
      (field.default as number | null) ??
      ((field.low ?? 0) + (field.high ?? 1)) / 2);
</script>

<template>
  <div class="controls">
    <template v-for="field in fields.filter(asked)" :key="field.name">
      <div
        v-if="field.kind === 'number' && sliders?.includes(field.name) === false"
        class="pair"
        :data-help="field.hint || undefined"
      >
        <span>{{ field.label }}</span>
        <InlineNumber
          :field="field"
          :value="values[field.name]"
          @change="(v) => set(field, v)"
          @commit="emit('commit', field.label)"
        />
      </div>
      <div v-else-if="field.kind === 'number'" class="row" :data-help="field.hint || undefined">
        <span>{{ field.label }}</span>
        <SlideBar
          :value="at(field)"
          :low="field.low ?? 0"
          :high="field.high ?? 1"
          :step="(field.step ?? 0.1) / 2"
          :label="field.label"
          @change="set(field, $event)"
          @commit="emit('commit', field.label)"
          @reset="choose(field, field.default ?? null)"
        />
        <InlineNumber
          :field="field"
          :value="values[field.name]"
          @change="(v) => set(field, v)"
          @commit="emit('commit', field.label)"
        />
        <button
          v-if="field.automatic && values[field.name] !== null"
          class="plain"
          type="button"
          @click="choose(field, null)"
        >
          {{ field.automatic }}
        </button>
      </div>
      <div v-else-if="field.kind === 'latch'" class="which">
        <span>{{ field.label }}</span>
        <ChoiceBox
          :value="String(values[field.name] ?? '')"
          :label="field.label"
          :options="[
            { value: '', label: 'none yet' },
            ...scene.latches
              .filter((o) => o.id !== scene.openLatch)
              .map((l) => ({ value: l.id!, label: l.name })),
          ]"
          @choose="choose(field, $event)"
        />
      </div>
      <div v-else-if="field.kind === 'colour'" class="tint">
        <label :for="`${scope}-${field.name}`">{{ field.label }}</label>
        <span class="swatch" :style="{ background: String(values[field.name]) }" />
        <TypedLine
          :id="`${scope}-${field.name}`"
          class="boxed hex"
          :value="String(values[field.name])"
          spellcheck="false"
          @done="typedColour(field, $event)"
        />
        <button class="plain" type="button" :aria-pressed="view.tool === 'tone'" @click="pickColour(field)">
          Pick
        </button>
      </div>
      <ElCheckbox
        v-else-if="field.kind === 'switch'"
        size="small"
        :data-help="field.hint || undefined"
        :model-value="values[field.name] === true"
        :label="field.label"
        @change="choose(field, $event === true)"
      />
      <fieldset v-else-if="field.kind === 'choice'" class="choices">
        <legend>{{ field.label }}</legend>
        <label v-for="(word, key) in field.words" :key="key" :class="{ on: values[field.name] === key }">
          <input
            type="radio"
            class="hidden-label"
            :name="`${scope}-${field.name}`"
            :checked="values[field.name] === key"
            @change="choose(field, key)"
          />{{ word }}
        </label>
      </fieldset>
    </template>
  </div>
</template>

<style scoped>
.controls {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 12px;
  padding-top: 2px;
}
.controls > * {
  grid-column: 1 / -1;
}
.controls > .pair {
  grid-column: auto;
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  justify-content: space-between;
}
.row {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr) 76px;
  gap: 6px;
  align-items: center;
}
.row .plain {
  grid-column: 2 / 4;
  justify-self: end;
  min-height: 24px;
  font-size: 12px;
}
.tint {
  display: grid;
  grid-template-columns: 84px 24px 78px auto;
  gap: 6px;
  align-items: center;
}
.swatch {
  width: 24px;
  height: 22px;
  border: 1px solid var(--ink-2);
}
.hex {
  font-variant-numeric: tabular-nums;
  min-width: 0;
}
.which {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr);
  gap: 6px;
  align-items: center;
}
.choices {
  border: 0;
  margin: 0;
  padding: 2px 0;
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}
legend {
  padding: 0;
  color: var(--ink-2);
}
.choices label {
  padding: 3px 7px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  cursor: pointer;
  min-height: 24px;
}
.choices label.on {
  background: var(--accent-soft);
  border-color: var(--accent);
}
.choices label:focus-within {
  outline: 2px solid var(--accent);
}
</style>
