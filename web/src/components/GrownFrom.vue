<script setup lang="ts">
/** What a place may be grown from, and what never: everywhere, a place outlined, what a latch holds. */
import { onBeforeUnmount } from "vue";

import type { RegrowRepair } from "../model/repairs";
import { useMend, type Limit } from "../stores/mend";
import { useView } from "../stores/view";

const props = defineProps<{ repair: RegrowRepair }>();
const view = useView();
const mend = useMend();
const ROWS: { what: Limit; tool: string; words: string; none: string; label: string }[] = [
  {
    what: "source",
    tool: "grow from",
    words: "Grown from",
    none: "everywhere around",
    label: "What it may be grown from",
  },
  {
    what: "spared",
    tool: "never from",
    words: "never from",
    none: "nothing in particular",
    label: "What it must not be grown from",
  },
];

function chosen(row: (typeof ROWS)[number], box: HTMLSelectElement): void {
  const to = box.value;
  box.value = props.repair[row.what] ? "said" : "";
  if (to === "outline") view.tool = row.tool;
  else if (to !== "said") void mend.limit(props.repair, row.what, to || null);
}
// a line that is closed is told nothing more
onBeforeUnmount(() => {
  if (ROWS.some((row) => row.tool === view.tool)) view.tool = "";
});
</script>

<template>
  <p class="from">
    <label v-for="row in ROWS" :key="row.what">
      {{ row.words }}
      <select
        class="boxed"
        :aria-label="row.label"
        :value="repair[row.what] ? 'said' : ''"
        :disabled="mend.doing.length > 0"
        @change="chosen(row, $event.target as HTMLSelectElement)"
      >
        <option value="">{{ row.none }}</option>
        <option v-if="repair[row.what]" value="said">the place ringed</option>
        <option value="outline">a place I outline …</option>
        <option v-for="l in mend.latches" :key="l.id" :value="l.id">{{ l.name }}</option>
      </select>
    </label>
  </p>
</template>

<style scoped>
.from {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: baseline;
}
</style>
