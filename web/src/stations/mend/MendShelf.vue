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
  <section v-if="skies.offered" class="shelf" aria-label="Skies">
    <button
      v-for="{ frame: f, said } in skies.offered"
      :key="f.id"
      class="one"
      type="button"
      :disabled="mend.doing.length > 0"
      :aria-label="`Sky of ${f.name}${said.length ? `: ${said.join('; ')}` : ''}`"
      @click="skies.bring(f)"
    >
      <img :src="`/api/frames/${f.id}/thumbnail?long=160`" :alt="f.name" />
      <span class="quiet">{{ said.join("; ") || "belongs" }}</span>
    </button>
    <button class="bare" type="button" aria-label="Cancel" @click="skies.close()">
      <GlyphMark name="remove" />
    </button>
  </section>
  <ProposalRow v-else-if="grown" :repair="grown" />
</template>

<style scoped>
.shelf {
  display: flex;
  gap: 10px;
  flex: none;
  min-height: 104px;
  padding: 8px 12px;
  border-top: 1px solid var(--line);
  overflow: auto hidden;
}
.one {
  flex: none;
  width: 104px;
  padding: 0;
  border: 0;
  background: none;
  text-align: left;
  font-size: 12px;
  line-height: 15px;
  cursor: pointer;
}
.one:disabled {
  opacity: 0.55;
}
.one img {
  display: block;
  width: 104px;
  height: 64px;
  object-fit: cover;
  border: 1px solid var(--edge);
  border-radius: 3px;
}
.one:hover:not(:disabled) img {
  border-color: var(--accent);
}
</style>
