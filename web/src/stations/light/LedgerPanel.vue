<script setup lang="ts">
/** The ledger at Light: the bands below folded to sentences, and the lines of Light. */
import { ElButton } from "element-plus";
import { ref, watch } from "vue";

import { client, need, type ParamField } from "../../api/client";
import { useAsked } from "../../composables/asked";
import { within } from "../../model/wording";
import { useScene } from "../../stores/scene";
import { useTour } from "../../stores/tour";
import { useView } from "../../stores/view";
import BandsFolded from "../../scene/BandsFolded.vue";
import InlineNumber from "../../ui/InlineNumber.vue";
import LedgerBand from "../../scene/LedgerBand.vue";
import WrongHere from "./WrongHere.vue";

const scene = useScene();
const view = useView();
const tour = useTour();
/** All of Light together, weaker: every line's strength times the same. */
const EASE: ParamField = {
  name: "ease", kind: "number", label: "Overall strength", unit: "%", low: 0, high: 1.5, step: 0.05, decimals: 0,
  default: 1, signed: false, shown_times: 100, hint: "", automatic: "", bygone: false, words: {}, items: [],
}; // prettier-ignore
const ease = ref(1);
let before: number[] = [];
function easing(to: number): void {
  if (!before.length) before = scene.moves.map((m) => m.strength ?? 1);
  ease.value = to;
  const strength = scene.vocabulary!.move_strength;
  scene.moves.forEach((m, n) => (m.strength = within(strength, before[n]! * to)));
  scene.touched();
}
// an Escape in mid-drag puts the strengths back
watch(
  () => scene.dragging,
  (dragging) => {
    if (dragging) return;
    before = [];
    ease.value = 1;
  },
);
function eased(): void {
  void scene.commit(`Overall strength to ${Math.round(ease.value * 100)} %`);
}
const { value: remarks } = useAsked(
  () => {
    if (scene.dragging) return undefined;
    return scene.opened && scene.moves.length ? { id: scene.opened.id, tick: scene.tick } : null;
  },
  ({ id }, signal) => {
    const params = { path: { scene_id: id } };
    const body = { document: scene.current() };
    return need(client.POST("/api/scenes/{scene_id}/remarks", { params, body, signal }));
  },
);
</script>

<template>
  <section class="ledger" aria-label="Ledger">
    <BandsFolded at="Light" side="under" />
    <!-- above the lines: what is tried is added below, and this must not move under the pointer -->
    <WrongHere v-if="view.wrong" />
    <LedgerBand name="Light" :moves="scene.moves" :kinds="scene.lightKinds" :remarks="remarks ?? {}">
      <template v-if="scene.moves.length" #head
        >Overall
        <InlineNumber :field="EASE" :value="ease" name="Overall strength" @change="easing" @commit="eased"
      /></template>
    </LedgerBand>
    <p v-if="tour.steps.length && tour.at < 0" class="pad">
      <ElButton
        size="small"
        data-help="Line by line: what was done here and why, each with and without"
        @click="tour.go(0)"
        >See how it was done</ElButton
      >
    </p>
    <p v-if="!scene.moves.length" class="pad quiet">
      Light is for what the sky and the land each need. Take a verb above the picture, or drag a rung of the
      ladder.
    </p>
    <BandsFolded at="Light" side="over" />
  </section>
</template>

<style scoped>
.ledger {
  flex: 1;
  overflow: auto;
}
.pad {
  padding: 4px 12px 12px;
}
</style>
