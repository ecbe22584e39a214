<script setup lang="ts">
/** Mend's ledger: what is in hand, and what was done to the place, line by line. */
import { computed, onMounted, onBeforeUnmount, watch } from "vue";

import BandsFolded from "../../components/BandsFolded.vue";
import GroundLine from "../../components/GroundLine.vue";
import InlineNumber from "../../components/InlineNumber.vue";
import ProposalRow from "../../components/ProposalRow.vue";
import RepairLine from "../../components/RepairLine.vue";
import ShapeLine from "../../components/ShapeLine.vue";
import SkyPart from "../../components/SkyPart.vue";
import type { Schemas } from "../../api/client";
import { useKeys } from "../../keys/keys";
import { useMend } from "../../stores/mend";
import { useScene } from "../../stores/scene";
import { useShape } from "../../stores/shape";
import { useView } from "../../stores/view";
import { SHAPE } from "./verbs";

const scene = useScene();
const view = useView();
const mend = useMend();
const shape = useShape();
const shaping = computed(() => SHAPE.some((s) => s.tool === view.tool));
const refocus = computed(() => scene.vocabulary?.moves.find((k) => k.kind === "refocus"));
/** Whether the picture shows nothing somewhere: it may only where Trim lets its corners be empty. */
const may = computed(() => Boolean(scene.ground("trim").params.empty));
const empty = computed(() => may.value && (scene.state?.empty ?? 0) >= 0.05);
let soon = 0;
watch(
  () => [may.value, scene.revision?.number, scene.opened?.id],
  () => {
    window.clearTimeout(soon);
    if (may.value) soon = window.setTimeout(() => void look(), 500);
  },
  { immediate: true },
);
async function look(): Promise<void> {
  const found = scene.dragging ? null : await scene.find<Schemas["GroundState"]>("");
  if (found) scene.state = found;
}
const brushes = computed(() => ["speck", "heal", "clone"].includes(view.tool));

useKeys().add(
  { name: "find specks", says: "find all specks and mend them", key: "f", run: () => void mend.findSpecks() },
  {
    name: "heal",
    says: "heal by stroke",
    key: "j",
    run: () => (view.tool = view.tool === "heal" ? "" : "heal"),
  },
  { name: "smaller brush", says: "a smaller brush", key: ",", run: () => sized(1 / 1.2) },
  { name: "larger brush", says: "a larger brush", key: ".", run: () => sized(1.2) },
);
function sized(times: number): void {
  if (view.tool === "nudge") shape.setBrush("radius", shape.brush.radius * times);
  else mend.setBrush("size", mend.brush.size * times);
}
async function fromLatch(e: Event): Promise<void> {
  const box = e.target as HTMLSelectElement;
  const key = box.value;
  box.value = "";
  if (key) await mend.regrowLatch(key);
}
onMounted(() => void mend.count());
watch(
  () => scene.opened?.id,
  () => void mend.count(),
);
onBeforeUnmount(() => {
  window.clearTimeout(soon);
  mend.putBack();
  shape.measured = false;
});
</script>

<template>
  <section class="ledger" aria-label="Mend">
    <div class="hand">
      <p v-if="view.tool === 'nudge'" class="brush">
        <template v-for="f in scene.vocabulary?.nudge_brush" :key="f.name">
          {{ f.label }}
          <select
            v-if="f.kind === 'choice'"
            class="boxed"
            :value="shape.brush.verb"
            aria-label="What the brush does"
            @change="shape.setBrush(f.name, ($event.target as HTMLSelectElement).value)"
          >
            <option v-for="(word, name) in f.words" :key="name" :value="name">{{ word }}</option>
          </select>
          <InlineNumber
            v-else
            :field="f"
            :value="shape.brush[f.name as 'radius' | 'strength']"
            @change="(v) => shape.setBrush(f.name, v)"
          />
        </template>
      </p>
      <label v-if="shaping || shape.open" class="brush">
        <input v-model="shape.measured" type="checkbox" /> Show how far each part is stretched
      </label>
      <p v-if="brushes" class="brush">
        <template v-for="f in scene.vocabulary?.brush" :key="f.name">
          {{ f.label }}
          <InlineNumber
            :field="f"
            :value="mend.brush[f.name as 'size' | 'soft']"
            @change="(v) => mend.setBrush(f.name as 'size' | 'soft', v)"
          />
        </template>
      </p>
      <label v-if="view.tool === 'regrow' && mend.latches.length" class="brush">
        Or what a latch holds
        <select class="boxed" @change="fromLatch">
          <option value="">choose</option>
          <option v-for="l in mend.latches" :key="l.id" :value="l.id">{{ l.name }}</option>
        </select>
      </label>
      <p v-if="empty" class="tried">
        Its corners show nothing.
        <button class="plain" type="button" :disabled="mend.doing.length > 0" @click="mend.fillCorners">
          Fill the empty corners
        </button>
      </p>
      <p v-if="mend.known?.kind === 'specks'" class="tried">
        {{ mend.known.spots.length }} known of this camera from other frames.
        <button class="plain" type="button" @click="mend.takeKnown">Mend them here, too</button>
      </p>
      <p v-if="mend.doing.length" class="quiet" role="status">
        {{ mend.doing.at(-1) }} …<template v-if="mend.done">
          &nbsp;{{ Math.round(100 * mend.done) }} %</template
        >
      </p>
      <p v-if="mend.hidden" class="tried" role="status">
        Hidden for a look.
        <button class="plain" type="button" @click="mend.keepHidden">Keep it so</button>
        <button class="plain" type="button" @click="mend.putBack">Put it back</button>
      </p>
    </div>
    <BandsFolded at="Mend" side="under" />
    <h2>Mend</h2>
    <ul class="lines" aria-label="Repairs">
      <RepairLine v-for="(repair, n) in mend.repairs" :key="repair.id" :repair="repair" :index="n">
        <ProposalRow v-if="repair.kind === 'regrow'" :repair="repair" />
      </RepairLine>
    </ul>
    <SkyPart />
    <ul v-if="shape.shapes.length" class="lines" aria-label="Shape">
      <ShapeLine v-for="line in shape.shapes" :key="line.id" :shape="line" />
    </ul>
    <ul v-if="refocus" class="lines" aria-label="Refocus">
      <GroundLine :kind="refocus" />
    </ul>
    <p v-if="!mend.repairs.length && !shape.shapes.length" class="quiet pad">
      Nothing is taken out yet. Find the specks first; then paint, outline or point at what distracts.
    </p>
    <BandsFolded at="Mend" side="over" />
  </section>
</template>

<style scoped>
.ledger {
  flex: 1;
  overflow: auto;
}
.hand:has(*) {
  padding: 6px 8px;
  border-bottom: 1px solid var(--line);
}
.brush {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 8px;
  padding: 2px 0;
}
.tried {
  padding: 4px 6px;
  background: var(--accent-soft);
}
h2 {
  padding: 8px 10px 4px;
  font-weight: 600;
}
.lines {
  list-style: none;
  margin: 0;
  padding: 0;
}
.pad {
  padding: 6px 10px;
}
</style>
