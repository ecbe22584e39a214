<script setup lang="ts">
/** What an area could be grown to: proposals as pictures, one of which stands. */
import { computed } from "vue";

import type { RegrowRepair } from "../../model/repairs";
import { useMend } from "../../stores/mend";

const props = defineProps<{ repair: RegrowRepair }>();
const mend = useMend();
const all = computed(() => (mend.proposals?.id === props.repair.id ? mend.proposals.all : []));
</script>

<template>
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
  gap: 10px;
  align-items: center;
  flex: none;
  height: 104px;
  padding: 8px 12px;
  border-top: 1px solid var(--line);
  overflow: auto hidden;
}
.row button:has(img) {
  padding: 0;
  border: 0;
}
img {
  display: block;
  width: 104px;
  height: 78px;
  object-fit: cover;
  border: 2px solid transparent;
  border-radius: 3px;
}
[aria-pressed="true"] img {
  border-color: var(--accent);
}
</style>
