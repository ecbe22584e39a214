<script setup lang="ts">
/** The paper: its size, the picture on it, how it is printed and seen. */
import { ElButton, ElCheckbox } from "element-plus";
import { computed, ref } from "vue";

import type { ParamField } from "../../api/client";
import InlineNumber from "../../ui/InlineNumber.vue";
import ParamControls from "../../scene/ParamControls.vue";
import TypedLine from "../../ui/TypedLine.vue";
import type { Values } from "../../model/wording";
import GlyphMark from "../../ui/GlyphMark.vue";
import { useProof } from "../../stores/proof";
import { useScene } from "../../stores/scene";

const proof = useProof();
const scene = useScene();
const more = ref(false);
const INCH = 25.4;
const field = (name: string) => scene.vocabulary!.paper.find((f) => f.name === name)!;
/** A length in what is chosen: millimetres, or inches to a tenth. */
function shown(name: string): ParamField {
  const f = field(name);
  return proof.inches ? { ...f, unit: "in", decimals: 1, shown_times: 1 / INCH, step: INCH / 10 } : f;
}
const values = computed<Values>(() => proof.paper?.params ?? {});
function set(name: string, value: number | null): void {
  values.value[name] = value;
  scene.touched();
}
const LENGTHS = ["width", "height", "border"];
const lengths = computed(() => [...LENGTHS, ...(values.value.fit === "exact" ? ["across"] : [])]);
/** What is set less often, by what it is about. */
const FRAMED = ["raised", "line", "gap", "mat", "foot"];
const PRINTED = ["intent", "compensated", "surface", "distance", "sharpness", "spare"];
const of = (names: string[]) => names.map(field);
const known = computed(() => (scene.vocabulary ? field("width") : null));
const size = computed(() =>
  proof.paper ? `${proof.mm(proof.paper.params.width)} × ${proof.mm(proof.paper.params.height)}` : "",
);
const picture = computed(() => {
  const l = proof.layout?.size;
  return l ? `${proof.mm(l[0]!)} × ${proof.mm(l[1]!)}` : "";
});
function rename(name: string): void {
  if (!name.trim() || !proof.paper) return;
  proof.paper.name = name.trim();
  void scene.commit(`Rename paper ${name.trim()}`);
}
</script>

<template>
  <h2>
    Paper <span v-if="proof.paper" class="quiet">{{ proof.paper.name }}, {{ size }}</span>
  </h2>
  <p v-if="!proof.paper" class="said">
    Choose a paper below the picture: it shows how the print will look, and how large it can be.
  </p>
  <div v-else-if="known" class="paper">
    <div class="row">
      <span>Units</span>
      <span class="units" role="group" aria-label="Units">
        <button class="plain" :class="{ on: !proof.inches }" type="button" @click="proof.inches = false">
          mm
        </button>
        <button class="plain" :class="{ on: proof.inches }" type="button" @click="proof.inches = true">
          inches
        </button>
      </span>
      <ElButton size="small" @click="proof.turn">Turn paper</ElButton>
    </div>
    <div class="lengths">
      <div v-for="name in lengths" :key="name" class="pair">
        <span>{{ shown(name).label }}</span>
        <InlineNumber
          :field="shown(name)"
          :value="values[name]"
          :name="`Paper: ${shown(name).label}`"
          @change="(v) => set(name, v)"
          @commit="scene.commit(`Paper: ${shown(name).label}`)"
        />
      </div>
    </div>
    <ParamControls
      :fields="of(['fit'])"
      :values="values"
      scope="paper-fit"
      @commit="(label) => scene.commit(`Paper: ${label}`)"
    />
    <p v-if="proof.layout?.problem" class="problem" role="alert">{{ proof.layout.problem }}</p>
    <p v-else class="said" role="status">The picture is {{ picture }}. {{ proof.layout?.sentence }}</p>
    <p v-if="!proof.paper.profile" class="said">
      This paper has no profile: its colours cannot be shown. Choose a paper of the press, or add a profile.
    </p>
    <ElCheckbox
      v-if="proof.paper.profile"
      v-model="proof.white"
      size="small"
      label="Show paper white and ink black as they are"
    />
    <button class="plain more" type="button" :aria-expanded="more" @click="more = !more">
      <GlyphMark :name="more ? 'down' : 'right'" /> Frame, ink, surface
    </button>
    <template v-if="more">
      <ParamControls
        :fields="of(FRAMED)"
        :values="values"
        scope="paper-frame"
        @commit="(label) => scene.commit(`Paper: ${label}`)"
      />
      <ParamControls
        :fields="of(PRINTED)"
        :values="values"
        scope="paper-print"
        @commit="(label) => scene.commit(`Paper: ${label}`)"
      />
      <div class="row">
        <TypedLine
          class="boxed name"
          :value="proof.paper.name"
          maxlength="120"
          aria-label="Name of the paper"
          @done="rename"
        />
        <ElButton size="small" @click="proof.remove(proof.paper)">Remove paper</ElButton>
      </div>
    </template>
  </div>
</template>

<style scoped>
.paper {
  padding: 0 12px 10px;
  border-bottom: 1px solid var(--line);
}
.said {
  padding: 4px 0;
  color: var(--ink-2);
  font-size: 12px;
}
h2 + .said {
  padding: 0 12px 10px;
  border-bottom: 1px solid var(--line);
}
.row {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 6px;
  min-height: 32px;
}
.lengths {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 16px;
}
.pair {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
}
.name {
  flex: 1;
  min-width: 0;
}
.more {
  padding-left: 0;
}
h2 .quiet {
  font-weight: 400;
}
</style>
