<script setup lang="ts">
/** Proof's side: the paper, lines for it alone, and what preflight has found. */
import { onMounted } from "vue";

import BandsFolded from "../../scene/BandsFolded.vue";
import { useProof } from "../../stores/proof";
import PaperLines from "./PaperLines.vue";
import PaperPart from "./PaperPart.vue";
import PreflightPart from "./PreflightPart.vue";

const proof = useProof();
onMounted(() => void proof.loadPress());
</script>

<template>
  <section class="proof" aria-label="Proof">
    <PaperPart />
    <PaperLines v-if="proof.paper" />
    <PreflightPart />
    <BandsFolded at="Proof" side="under" />
  </section>
</template>

<style scoped>
.proof {
  flex: 1;
  overflow: auto;
}
.proof :deep(h2) {
  padding: 10px 12px 4px;
  font-weight: 600;
}
</style>
