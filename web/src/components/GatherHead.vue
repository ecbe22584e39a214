<script setup lang="ts">
/** Gather's head: which outing, where on the path, and out. */
import { computed } from "vue";

import type { Schemas } from "../api/client";
import PathLine from "./PathLine.vue";
import TrayStone from "./TrayStone.vue";

type Outing = Schemas["OutingOut"];
const props = defineProps<{ outing: Outing | null; outings: Outing[] }>();
const emit = defineEmits<{ go: [outing: string]; leave: [] }>();
const several = computed(() => props.outings.length > 1);
const says = computed(() => {
  const n = props.outing?.count;
  return n === undefined ? "" : n === 1 ? "1 frame" : `${n} frames`;
});
</script>

<template>
  <header>
    <div class="which">
      <h1 :class="{ 'hidden-label': several }">{{ outing?.name ?? "Gather" }}</h1>
      <select
        v-if="several"
        class="boxed"
        aria-label="Outing"
        :value="outing?.id"
        @change="emit('go', ($event.target as HTMLSelectElement).value)"
      >
        <option v-for="o in outings" :key="o.id" :value="o.id">{{ o.name }}</option>
      </select>
    </div>
    <PathLine at="Gather" :says="{ Gather: says }" />
    <div class="own">
      <TrayStone />
      <button class="plain" type="button" @click="emit('leave')">Sign out</button>
    </div>
  </header>
</template>

<style scoped>
header {
  display: grid;
  grid-template-columns: 1fr auto 1fr;
  align-items: center;
  height: 46px;
  flex: none;
  padding: 0 14px;
  border-bottom: 1px solid var(--line);
}
h1 {
  font-size: 16px;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.which {
  min-width: 0;
}
.which select {
  max-width: 300px;
  font-size: 16px;
  font-weight: 600;
}
.own {
  display: flex;
  justify-content: flex-end;
}
</style>
