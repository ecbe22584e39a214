<script setup lang="ts">
/** The shelf at Mend: skies of the outing in the order in which they belong; what a place could be grown to. */
import { computed } from "vue";

import { useMend } from "../../stores/mend";
import { useScene } from "../../stores/scene";
import { useSkies } from "../../stores/skies";
import GlyphMark from "../../ui/GlyphMark.vue";
import ProposalRow from "./ProposalRow.vue";

const scene = useScene();
const mend = useMend();
const skies = useSkies();
const grown = computed(() => {
  const open = mend.repairs.find((r) => r.id === scene.openMove);
  return open?.kind === "regrow" ? open : null;
});
</script>

<template>
  <section v-if="skies.offered" class="shelf-row" aria-label="Skies">
    <button
      v-for="{ frame: f, reasons } in skies.offered"
      :key="f.id"
      class="one"
      type="button"
      :disabled="mend.doing.length > 0"
      :aria-label="`Sky of ${f.name}${reasons.length ? `: ${reasons.join('; ')}` : ''}`"
      @click="skies.bring(f)"
    >
      <img :src="`/api/frames/${f.id}/thumbnail?long=160`" :alt="f.name" />
      <span class="quiet">{{ reasons.join("; ") || "belongs" }}</span>
    </button>
    <button class="bare" type="button" aria-label="Cancel" @click="skies.close()">
      <GlyphMark name="remove" />
    </button>
  </section>
  <ProposalRow v-else-if="grown" :repair="grown" />
  <!-- always there: the picture does not move when something comes to lie on it -->
  <section v-else class="shelf-row" aria-label="Shelf">
    <p class="quiet">
      Skies of the outing lie here once you ask for one; so do proposals for what is regrown.
    </p>
  </section>
</template>

<style scoped>
.shelf-row > p {
  align-self: center;
}
</style>
