<script setup lang="ts">
/** One band of the ledger: its name, what stands in its head, and its lines, together where they are switched together. */
import type { Kind, MoveLine } from "../api/client";
import { useGroups } from "../stores/groups";
import GroupHead from "./GroupHead.vue";
import LedgerLine from "./LedgerLine.vue";

const props = defineProps<{
  name: string;
  moves: MoveLine[];
  kinds: Kind[];
  /** What the settings of a line do that one may not expect, by its id. */
  remarks?: Record<string, string>;
}>();
const groups = useGroups();
const kindOf = (kind: string) => props.kinds.find((k) => k.kind === kind)!;
defineSlots<{ head?(): unknown }>();
</script>

<template>
  <h2 class="band-name">
    {{ name }} <span class="head"><slot name="head" /></span>
  </h2>
  <ul>
    <template v-for="(move, n) in moves" :key="move.id">
      <GroupHead
        v-if="groups.beginning(n)"
        :group="groups.beginning(n)!"
        :lines="moves.filter((m) => m.group === move.group).length"
      />
      <LedgerLine
        v-if="!move.group || !groups.folded.has(move.group)"
        :move="move"
        :kind="kindOf(move.kind)"
        :index="n"
        :count="moves.length"
        :remark="remarks?.[move.id]"
      />
    </template>
  </ul>
</template>

<style scoped>
.head {
  margin-left: auto;
  font-weight: 400;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
</style>
