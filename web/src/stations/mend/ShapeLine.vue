<script setup lang="ts">
/** One line of Reshape or Nudge: what it holds, how far it is felt, and whether all of it could be done. */
import { computed } from "vue";

import type { ParamField } from "../../api/client";
import { shapeReads, type AnyShape } from "../../model/shapes";
import { useScene } from "../../stores/scene";
import { useShape } from "../../stores/shape";
import ChoiceBox from "../../ui/ChoiceBox.vue";
import BandLine from "../../scene/BandLine.vue";
import InlineNumber from "../../ui/InlineNumber.vue";
import ParamControls from "../../scene/ParamControls.vue";

const props = defineProps<{ shape: AnyShape }>();
const scene = useScene();
const all = useShape();
const line = computed(() => props.shape);
const kind = computed(() => scene.vocabulary?.moves.find((k) => k.kind === line.value.kind));
const said = computed(() => shapeReads(line.value, kind.value));
/** Whether there is anything that its settings are about. */
const felt = computed(
  () => line.value.kind === "nudge" || line.value.pins.length + line.value.lines.length > 0,
);
const share = computed(() => Math.round(100 * all.share(line.value)));
const straight = computed(() => scene.vocabulary?.bent_line.find((f) => f.name === "what")?.words ?? {});

function become(n: number, what: string): void {
  if (line.value.kind !== "reshape") return;
  line.value.lines[n]!.what = what as "straight";
  void scene.commit(`Make line ${what}`);
}
function setPulled(n: number, field: ParamField, value: number): void {
  if (line.value.kind !== "reshape") return;
  Object.assign(line.value.pulled[n]!, { [field.name]: value });
  scene.touched();
}
function drop(from: "lines" | "pulled" | "pins", n: number | "all", words: string): void {
  if (line.value.kind !== "reshape") return;
  if (n === "all") line.value[from].length = 0;
  else line.value[from].splice(n, 1);
  void scene.commit(words);
}
function lessByOne(): void {
  if (line.value.kind !== "nudge") return;
  line.value.strokes.pop();
  void scene.commit("Remove last stroke");
}
</script>

<template>
  <BandLine :line="line" :said="said" hint="What it is for">
    <ParamControls
      v-if="kind && felt"
      :fields="kind.fields"
      :values="line.params"
      :scope="line.id"
      @commit="(label) => scene.commit(`${label} of ${said}`)"
    />
    <template v-if="line.kind === 'reshape'">
      <p v-for="(bent, n) in line.lines" :key="`line ${n}`" class="part">
        Line {{ n + 1 }} is made
        <ChoiceBox
          wide="110px"
          :value="bent.what"
          :label="`Line ${n + 1} is made`"
          :options="Object.entries(straight).map(([value, label]) => ({ value, label }))"
          @choose="become(n, $event)"
        />
        <button class="plain" type="button" @click="drop('lines', n, 'Remove line')">Remove line</button>
      </p>
      <p v-for="(part, n) in line.pulled" :key="`part ${n}`" class="part">
        <template v-for="f in scene.vocabulary?.pulled" :key="f.name">
          {{ f.label }}
          <InlineNumber
            :field="f"
            :value="part[f.name as 'amount' | 'soft'] ?? f.default"
            @change="(v) => setPulled(n, f, v)"
            @commit="scene.commit(`${f.label} of a foreground`)"
          />
        </template>
        <button class="plain" type="button" @click="drop('pulled', n, 'Remove foreground')">
          Remove foreground
        </button>
      </p>
      <p class="part">
        <button class="plain" type="button" @click="all.grid(line)">Add a grid of pins</button>
        <button
          v-if="line.pins.length"
          class="plain"
          type="button"
          @click="drop('pins', 'all', 'Remove pins')"
        >
          Remove pins
        </button>
      </p>
    </template>
    <button v-else-if="line.strokes.length" class="plain" type="button" @click="lessByOne">
      Remove last stroke
    </button>
    <p v-if="share < 100" class="told" role="status">
      Limited to {{ share }} %: more would fold the picture.
    </p>
    <template #acts>
      <button class="plain" type="button" @click="all.remove(line, said)">Remove</button>
    </template>
  </BandLine>
</template>

<style scoped>
.part {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px;
}
.told {
  padding: 4px 6px;
  background: var(--accent-soft);
}
</style>
