<script setup lang="ts">
/** Mend's ledger: what is in hand, and what was done to the place, line by line. */
import { ElCheckbox } from "element-plus";
import { computed, onMounted, onBeforeUnmount, watch } from "vue";

import BandsFolded from "../../scene/BandsFolded.vue";
import GroundLine from "../../scene/GroundLine.vue";
import InlineNumber from "../../ui/InlineNumber.vue";
import GrownFrom from "./GrownFrom.vue";
import RepairLine from "./RepairLine.vue";
import ShapeLine from "./ShapeLine.vue";
import SkyPart from "./SkyPart.vue";
import type { Schemas } from "../../api/client";
import { useKeys } from "../../keys/keys";
import { useMend } from "../../stores/mend";
import { useScene } from "../../stores/scene";
import { useShape } from "../../stores/shape";
import { useView } from "../../stores/view";
import ChoiceBox from "../../ui/ChoiceBox.vue";
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
    <div class="hand" role="group" aria-label="In hand">
      <p v-if="view.tool === 'nudge'" class="brush">
        <template v-for="f in scene.vocabulary?.nudge_brush" :key="f.name">
          {{ f.label }}
          <ChoiceBox
            v-if="f.kind === 'choice'"
            wide="120px"
            label="What the brush does"
            :value="shape.brush.verb"
            :options="Object.entries(f.words ?? {}).map(([value, label]) => ({ value, label }))"
            @choose="shape.setBrush(f.name, $event)"
          />
          <InlineNumber
            v-else
            :field="f"
            :value="shape.brush[f.name as 'radius' | 'strength']"
            @change="(v) => shape.setBrush(f.name, v)"
          />
        </template>
      </p>
      <ElCheckbox
        v-if="shaping || shape.open"
        v-model="shape.measured"
        size="small"
        label="Show how far each part is stretched"
      />
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
      <div v-if="view.tool === 'regrow' && mend.latches.length" class="brush">
        Or what a latch holds
        <ChoiceBox
          wide="120px"
          label="A latch to regrow"
          value=""
          :options="[
            { value: '', label: 'choose' },
            ...mend.latches.map((l) => ({ value: l.id!, label: l.name })),
          ]"
          @choose="$event && mend.regrowLatch($event)"
        />
      </div>
      <p v-if="empty" class="tried">
        Its corners show nothing.
        <button class="plain" type="button" :disabled="mend.doing.length > 0" @click="mend.fillCorners">
          Fill the empty corners
        </button>
      </p>
      <p v-if="mend.known?.kind === 'specks'" class="tried">
        {{ mend.known.spots.length }} specks known from this camera.
        <button class="plain" type="button" @click="mend.takeKnown">Mend here</button>
      </p>
      <p v-if="mend.doing.length" class="quiet" role="status">
        {{ mend.doing.at(-1) }} …<template v-if="mend.done">
          &nbsp;{{ Math.round(100 * mend.done) }} %</template
        >
      </p>
      <p v-if="mend.hidden" class="tried" role="status">
        Preview without it.
        <button class="plain" type="button" @click="mend.keepHidden">Keep</button>
        <button class="plain" type="button" @click="mend.putBack">Restore</button>
      </p>
    </div>
    <BandsFolded at="Mend" side="under" />
    <h2 class="band-name">Mend</h2>
    <ul class="lines" aria-label="Repairs">
      <RepairLine v-for="(repair, n) in mend.repairs" :key="repair.id" :repair="repair" :index="n">
        <GrownFrom v-if="repair.kind === 'regrow'" :repair="repair" />
      </RepairLine>
    </ul>
    <SkyPart />
    <ul v-if="shape.shapes.length" class="lines" aria-label="Shape">
      <ShapeLine v-for="line in shape.shapes" :key="line.id" :shape="line" />
    </ul>
    <ul v-if="refocus" class="lines" aria-label="Refocus">
      <GroundLine :kind="refocus" />
    </ul>
    <p v-if="!mend.repairs.length && !shape.shapes.length && !scene.document?.sky" class="quiet pad">
      Mend is for what should not be there: dust, wires, a branch. Find the specks first; then paint, outline
      or point at what distracts.
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
  padding: 6px 12px;
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
.lines {
  list-style: none;
  margin: 0;
  padding: 0;
}
.pad {
  padding: 6px 12px;
}
</style>
