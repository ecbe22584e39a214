<script setup lang="ts">
/** Ground's ledger: each line once, in the order in which a photographer thinks. */
import { computed, onMounted, watch } from "vue";

import type { Schemas } from "../../api/client";
import BandsFolded from "../../scene/BandsFolded.vue";
import GroundLine from "../../scene/GroundLine.vue";
import { useScene } from "../../stores/scene";

const scene = useScene();
const ORDER = [
  "lens", "plumb", "trim", "colour_of_light", "base_exposure", "rescue", "rendering", "ends", "noise", "crispness",
]; // prettier-ignore
/** What a join has seen to, frame by frame, when it was made. */
const SEEN_TO: Record<string, string[]> = { sweep: ["lens", "rescue"], bracket: ["rescue"] };
const kinds = computed(() =>
  scene.groundKinds
    .filter(
      (k) => ORDER.includes(k.kind) && !SEEN_TO[scene.document?.base?.kind ?? "frame"]?.includes(k.kind),
    )
    .sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind)),
);
let soon = 0;
watch(
  () => [scene.revision?.number, scene.opened?.id],
  () => {
    window.clearTimeout(soon);
    soon = window.setTimeout(() => void refresh(), 500);
  },
);
async function refresh(): Promise<void> {
  if (scene.dragging) return;
  scene.state = (await scene.find<Schemas["GroundState"]>("")) ?? scene.state;
}
onMounted(refresh);
</script>

<template>
  <section class="ledger" aria-label="Ground">
    <BandsFolded at="Ground" side="under" />
    <h2 class="band-name">Ground</h2>
    <ul>
      <GroundLine v-for="k in kinds" :key="k.kind" :kind="k" />
    </ul>
    <BandsFolded at="Ground" side="over" />
  </section>
</template>

<style scoped>
.ledger {
  flex: 1;
  overflow: auto;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  border-bottom: 1px solid var(--line);
}
</style>
