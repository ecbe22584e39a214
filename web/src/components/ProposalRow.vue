<script setup lang="ts">
/** What an area could be grown to: proposals as pictures, one of which stands. */
import { computed } from "vue";

import type { RegrowRepair } from "../model/repairs";
import { useMend } from "../stores/mend";
import GrownFrom from "./GrownFrom.vue";

const props = defineProps<{ repair: RegrowRepair }>();
const mend = useMend();
const all = computed(() => (mend.proposals?.id === props.repair.id ? mend.proposals.all : []));
</script>

<template>
  <GrownFrom :repair="repair" />
  <div class="row" role="group" aria-label="Proposals">
    <button
      v-for="(one, n) in all"
      :key="n"
      class="plain"
      type="button"
      :aria-pressed="one.repair.map === repair.map"
      @click="mend.choose(one)"
    >
      <img :src="one.picture" :alt="`Proposal ${n + 1}`" />
    </button>
    <button class="plain" type="button" :disabled="mend.doing.length > 0" @click="mend.again(repair)">
      Try again
    </button>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
  padding: 4px 0;
}
.row button:has(img) {
  padding: 0;
}
img {
  display: block;
  width: 84px;
  height: 63px;
  object-fit: cover;
  border: 2px solid transparent;
}
[aria-pressed="true"] img {
  border-color: var(--accent);
}
</style>
