<script setup lang="ts">
/** Join's ledger: how a sweep is laid flat, turned and bordered, how far a bracket reaches. */
import { ElCheckbox } from "element-plus";
import { computed } from "vue";

import BandsFolded from "../../scene/BandsFolded.vue";
import GroundLine from "../../scene/GroundLine.vue";
import LoanList from "./LoanList.vue";
import ShapeLine from "../mend/ShapeLine.vue";
import { headroom } from "../../model/seams";
import { useScene } from "../../stores/scene";
import { useShape } from "../../stores/shape";
import { useView } from "../../stores/view";

const scene = useScene();
const shape = useShape();
const view = useView();
const base = computed(() => {
  const held = scene.document?.base;
  return held && held.kind !== "frame" ? held : null;
});
const sweep = computed(() => (base.value?.kind === "sweep" ? base.value : null));
const bracket = computed(() => (base.value?.kind === "bracket" ? base.value : null));
/** Stops over middle grey at which a frame clips. */
const CLIPS = Math.log2(1 / 0.18);
const kinds = computed(() =>
  ["projection", "plumb"].map((name) => scene.groundKinds.find((k) => k.kind === name)!).filter(Boolean),
);
const of = computed(() => (sweep.value?.members.some((m) => m.bracket) ? "brackets" : "frames"));
const taken = computed(() => base.value?.members.filter((m) => m.on).length ?? 0);
const nameOf = (id: string) => scene.opened?.sources.find((s) => s.id === id)?.name ?? "";
const worst = computed(() => [...(sweep.value?.pairs ?? [])].sort((a, b) => b.residual - a.residual)[0]);
const bent = computed(() => shape.shapes.filter((s) => s.kind === "reshape"));
/** What becomes of the ragged outline. */
const BORDERS = { crop: "largest crop", stretched: "stretched to the edges", ragged: "left ragged" };
type Border = keyof typeof BORDERS;
const border = computed<Border>(() => {
  if (scene.ground("trim").params.empty) return "ragged";
  return scene.ground("projection").params.stretch ? "stretched" : "crop";
});

const painted = computed(() => base.value?.painted?.length ?? 0);
function unpaint(): void {
  base.value!.painted = [];
  void scene.commit("Remove painted seams");
}
function setBorder(name: Border): void {
  scene.ground("trim").params.empty = name === "ragged";
  scene.ground("projection").params.stretch = name === "stretched" ? 1 : 0;
  void scene.commit(`Borders ${BORDERS[name]}`);
}
</script>

<template>
  <section class="ledger" aria-label="Join">
    <template v-if="base">
      <h2 class="band-name">
        {{ `${sweep ? "Sweep" : "Bracket"} of ${taken} ${of}` }}
      </h2>
      <p v-if="bracket" class="pad">
        Light clips at +{{ (CLIPS + headroom(bracket.members)).toFixed(1) }} stops, was +{{
          CLIPS.toFixed(1)
        }}.
      </p>
      <ul v-if="sweep" class="lines">
        <GroundLine v-for="k in kinds" :key="k.kind" :kind="k" />
      </ul>
      <div v-if="sweep" class="pad borders" role="group" aria-label="Borders">
        <span>Borders</span>
        <button
          v-for="(word, name) in BORDERS"
          :key="name"
          class="plain"
          :class="{ on: border === name }"
          type="button"
          :aria-pressed="border === name"
          @click="setBorder(name)"
        >
          {{ word }}
        </button>
      </div>
      <ul v-if="sweep && bent.length" class="lines" aria-label="Shape">
        <ShapeLine v-for="line in bent" :key="line.id" :shape="line" />
      </ul>
      <p v-if="painted" class="pad">
        {{ painted }} {{ painted === 1 ? "stroke says" : "strokes say" }} which frame is where.
        <button class="plain" type="button" @click="unpaint">Remove all</button>
      </p>
      <p v-if="worst" class="quiet pad">
        {{ nameOf(worst.a) }} and {{ nameOf(worst.b) }} match least well: {{ worst.residual.toFixed(2) }} px.
        <ElCheckbox v-model="view.fits" size="small" label="Show where each pair matches" />
      </p>
      <p v-for="l in base.left_out" :key="l.name" class="quiet pad">
        {{ l.name }} could not be placed: {{ l.why }}.
      </p>
    </template>
    <p v-else class="pad quiet">
      Join is for pictures made of several frames. This scene is one frame; sweeps and brackets are joined at
      Gather. Here a part of another frame can be borrowed.
    </p>
    <LoanList v-if="scene.document" />
    <BandsFolded at="Join" side="over" />
  </section>
</template>

<style scoped>
.ledger {
  flex: 1;
  overflow: auto;
}
.lines {
  list-style: none;
  margin: 0;
  padding: 0;
}
.pad {
  padding: 6px 12px;
}
.borders {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 6px;
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
}
</style>
