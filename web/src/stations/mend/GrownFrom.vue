<script setup lang="ts">
/** What a place may be grown from, and what never: everywhere, a place outlined, what a latch holds. */
import { onBeforeUnmount } from "vue";

import type { RegrowRepair } from "../../model/repairs";
import ChoiceBox from "../../ui/ChoiceBox.vue";
import { useMend, type Limit } from "../../stores/mend";
import { useView } from "../../stores/view";

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
    words: "Never from",
    none: "(none)",
    label: "What it must not be grown from",
  },
];

function chosen(row: (typeof ROWS)[number], to: string): void {
  if (to === "outline") view.tool = row.tool;
  else if (to !== "said") void mend.limit(props.repair, row.what, to || null);
}
const options = (row: (typeof ROWS)[number]) => [
  { value: "", label: row.none },
  ...(props.repair[row.what] ? [{ value: "said", label: "the place ringed" }] : []),
  { value: "outline", label: "a place I outline …" },
  ...mend.latches.map((l) => ({ value: l.id!, label: l.name })),
];
// a line that is closed is told nothing more
onBeforeUnmount(() => {
  if (ROWS.some((row) => row.tool === view.tool)) view.tool = "";
});
</script>

<template>
  <div v-for="row in ROWS" :key="row.what" class="from">
    <span>{{ row.words }}</span>
    <ChoiceBox
      :label="row.label"
      :value="repair[row.what] ? 'said' : ''"
      :options="options(row)"
      @choose="chosen(row, $event)"
    />
  </div>
</template>

<style scoped>
.from {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr);
  gap: 6px;
  align-items: center;
  padding-top: 4px;
}
</style>
