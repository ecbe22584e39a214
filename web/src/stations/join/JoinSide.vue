<script setup lang="ts">
/** Join's ledger: how a sweep is laid flat, turned and bordered, how far a bracket reaches; and their frames. */
import { ElSwitch } from "element-plus";
import { computed } from "vue";

import BandsFolded from "../../components/BandsFolded.vue";
import GroundLine from "../../components/GroundLine.vue";
import LoanList from "../../components/LoanList.vue";
import ShapeLine from "../../components/ShapeLine.vue";
import ToolRow from "../../components/ToolRow.vue";
import { headroom, seamTint } from "../../model/seams";
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
const taken = computed(() => base.value?.members.filter((m) => m.on).length ?? 0);
const frames = computed(() =>
  (base.value?.members ?? []).map((member, n) => ({
    n,
    member,
    source: scene.opened!.sources.find((s) => s.id === member.source),
    light: "ev" in member ? exposedBy(member.ev) : gainOf(member.gain ?? 0),
  })),
);
const nameOf = (id: string) => scene.opened?.sources.find((s) => s.id === id)?.name ?? "";
const worst = computed(() => [...(sweep.value?.pairs ?? [])].sort((a, b) => b.residual - a.residual)[0]);
const BEND = [
  {
    tool: "bend",
    word: "Straighten a line",
    hint: "Point along a horizon or a shore that should be straight",
  },
];
const bent = computed(() => shape.shapes.filter((s) => s.kind === "reshape"));
/** What becomes of the ragged outline. */
const BORDERS = { crop: "largest crop", stretched: "stretched to the edges", ragged: "left ragged" };
type Border = keyof typeof BORDERS;
const border = computed<Border>(() => {
  if (scene.ground("trim").params.empty) return "ragged";
  return scene.ground("projection").params.stretch ? "stretched" : "crop";
});

function exposedBy(ev: number): string {
  const size = Math.abs(ev).toFixed(1);
  return size === "0.0" ? "as the picture" : `${ev > 0 ? "+" : "−"}${size} stops`;
}
function gainOf(stops: number): string {
  const size = Math.abs(stops).toFixed(2);
  return size === "0.00" ? "as it is" : `${stops > 0 ? "+" : "−"}${size} stops`;
}
function turn(n: number): void {
  const member = base.value!.members[n]!;
  member.on = !member.on;
  void scene.commit(`${nameOf(member.source)} ${member.on ? "taken in" : "left out"}`);
}
const painted = computed(() => base.value?.painted?.length ?? 0);
/** Take a frame in hand, to be painted in. */
function frameHere(source: string): void {
  const again = view.tool === "this frame" && view.framing === source;
  view.framing = again ? "" : source;
  view.tool = again ? "" : "this frame";
}
function unpaint(): void {
  base.value!.painted = [];
  void scene.commit("What was painted taken out");
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
      <h2>
        {{ sweep ? "Sweep" : "Bracket" }} of <b>{{ taken }}</b> frames
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
      <div v-if="sweep" class="pad"><ToolRow label="Shape" :tools="BEND" /></div>
      <ul v-if="sweep && bent.length" class="lines" aria-label="Shape">
        <ShapeLine v-for="line in bent" :key="line.id" :shape="line" />
      </ul>
      <h2>Its frames</h2>
      <ul class="frames">
        <li
          v-for="{ n, member, source, light } in frames"
          :key="member.source"
          :class="{ off: !member.on }"
          @pointerenter="view.member = n"
          @pointerleave="view.member = -1"
        >
          <img
            v-if="source?.frame"
            :src="`/api/frames/${source.frame}/thumbnail?long=160`"
            :alt="source.name"
            :style="{ borderColor: seamTint(n) }"
          />
          <div class="of">
            <b>{{ source?.name }}</b>
            <p class="quiet">{{ light }} · fits to {{ (member.residual ?? 0).toFixed(2) }} px</p>
            <button
              v-if="member.on"
              class="plain here"
              type="button"
              :aria-pressed="view.tool === 'this frame' && view.framing === member.source"
              :aria-label="`${source?.name} here`"
              @click="frameHere(member.source)"
            >
              This frame here
            </button>
          </div>
          <ElSwitch
            :model-value="member.on"
            size="small"
            :disabled="member.on && taken < 2"
            :aria-label="`${source?.name} in the picture`"
            @change="turn(n)"
          />
        </li>
      </ul>
      <p v-if="painted" class="pad">
        {{ painted }} {{ painted === 1 ? "stroke says" : "strokes say" }} which frame is where.
        <button class="plain" type="button" @click="unpaint">Take them out</button>
      </p>
      <p v-if="worst" class="quiet pad">
        The worst pair is {{ nameOf(worst.a) }} and {{ nameOf(worst.b) }}, {{ worst.residual.toFixed(2) }} px.
      </p>
      <p v-for="l in base.left_out" :key="l.name" class="quiet pad">
        {{ l.name }} found no place: {{ l.why }}.
      </p>
    </template>
    <p v-else class="pad quiet">
      This scene is one frame. Sweeps and brackets are joined at Gather: choose their frames there, then Join.
    </p>
    <LoanList v-if="scene.document && !sweep" />
    <BandsFolded at="Join" side="over" />
  </section>
</template>

<style scoped>
.ledger {
  flex: 1;
  overflow: auto;
}
h2 {
  padding: 8px 10px 4px;
  font-weight: 600;
}
.lines,
.frames {
  list-style: none;
  margin: 0;
  padding: 0;
}
.pad {
  padding: 6px 10px;
}
.borders {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 6px;
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
}
.frames li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 10px;
}
.frames .of {
  flex: 1;
  min-width: 0;
}
.frames img {
  width: 54px;
  height: 54px;
  object-fit: cover;
  border: 3px solid;
}
.here {
  padding: 0 4px;
}
.here[aria-pressed="true"] {
  background: var(--accent-soft);
}
.off img {
  opacity: 0.4;
}
</style>
