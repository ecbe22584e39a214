<script setup lang="ts">
/** Format, guides, and the ways to level; the crop itself is drawn on the picture. */
import { computed, nextTick, ref } from "vue";

import type { Kind, Schemas } from "../../api/client";
import ChoiceBox from "../../ui/ChoiceBox.vue";
import { GUIDES } from "../../model/guides";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";

const props = defineProps<{ kind: Kind }>();
const scene = useScene();
const view = useView();
const field = (name: string) => props.kind.fields.find((f) => f.name === name)!;
const trim = computed(() => scene.ground("trim").params);
const OTHER = "other";
/** Whether a ratio is being typed, and where. */
const typing = ref(false);
const typed = ref<HTMLInputElement | null>(null);
/** A ratio that is none of the named ones. */
const own = computed(() => {
  const now = trim.value.format as string;
  return field("format").words?.[now] ? "" : now;
});
/** Formats that can lie or stand. */
const shaped = computed(() => !["frame", "free", "1:1"].includes(trim.value.format as string));
const size = computed(() => scene.state?.size ?? [0, 0]);

const formats = computed(() => [
  ...Object.entries(field("format").words ?? {}).map(([value, label]) => ({ value, label })),
  ...(own.value ? [{ value: own.value, label: own.value }] : []),
  { value: OTHER, label: "another ratio…" },
]);
const guides = Object.entries(GUIDES).map(([value, label]) => ({ value, label }));
function choose(value: string): void {
  typing.value = value === OTHER;
  if (typing.value) void nextTick(() => typed.value?.focus());
  else format(value);
}
function type(said: string): void {
  const [a = 0, b = 0] = said.split(/[:×x/ ]+/).map((side) => Math.round(Number(side) * 1000) / 1000);
  typing.value = false;
  const [longer, shorter] = [Math.max(a, b), Math.min(a, b)];
  if (shorter > 0 && longer < 10000 && longer <= 20 * shorter)
    format(`${longer}:${shorter}`, a < b ? "standing" : "lying");
}
function format(value: string, way?: string): void {
  const kept = scene.map?.kept ?? scene.map?.box ?? [0, 0, 1, 1];
  const free = value === "free";
  void scene.setGround(
    "trim",
    {
      format: value,
      ...(way ? { way } : {}),
      ...(free
        ? { width: kept[2]! - kept[0]!, height: kept[3]! - kept[1]!, centre: middle(kept) }
        : { centre: null, width: null, height: null }),
    },
    `Format ${field("format").words?.[value] ?? value}`,
  );
}
function middle(box: number[]): { x: number; y: number } {
  return scene.plane!.fromTurned({ x: (box[0]! + box[2]!) / 2, y: (box[1]! + box[3]!) / 2 });
}
async function horizon(): Promise<void> {
  const found = await scene.find<Schemas["Level"]>("horizon");
  if (found) await scene.setGround("trim", { level: found.level }, "Level horizon");
}
function all(): void {
  void scene.setGround("trim", { centre: null, width: null, height: null }, "Reset crop");
}
</script>

<template>
  <div class="row">
    <span>Format</span>
    <ChoiceBox
      label="Format"
      :value="typing ? OTHER : String(trim.format)"
      :options="formats"
      @choose="choose"
    />
    <input
      v-if="typing"
      ref="typed"
      class="boxed ratio"
      placeholder="7:5"
      aria-label="Width to height"
      @change="type(($event.target as HTMLInputElement).value)"
      @keydown.enter="($event.target as HTMLInputElement).blur()"
      @keydown.escape.stop="typing = false"
      @blur="typing = false"
    />
    <button
      v-for="(word, key) in shaped ? field('way').words : {}"
      :key="key"
      class="plain"
      :class="{ on: trim.way === key }"
      type="button"
      :aria-pressed="trim.way === key"
      @click="scene.setGround('trim', { way: key, centre: null, width: null, height: null }, word)"
    >
      {{ word }}
    </button>
  </div>
  <div class="row">
    <span>Guides</span>
    <ChoiceBox label="Guides" :value="view.guide" :options="guides" @choose="view.guide = $event" />
    <span class="quiet numeral">{{ size[0] }} × {{ size[1] }} px</span>
  </div>
  <div class="row">
    <button
      class="plain"
      :class="{ on: view.tool === 'horizon' }"
      type="button"
      :aria-pressed="view.tool === 'horizon'"
      @click="view.tool = view.tool ? '' : 'horizon'"
    >
      Draw the horizon
    </button>
    <button class="plain" type="button" :disabled="scene.finding" @click="horizon">Find horizon</button>
    <button class="plain" type="button" :disabled="!trim.centre && trim.width === null" @click="all">
      Reset crop
    </button>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 5px;
  padding: 2px 0;
}
.ratio {
  width: 56px;
}
.row > .el-select {
  flex: 1;
  min-width: 0;
}
</style>
