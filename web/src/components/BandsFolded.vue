<script setup lang="ts">
/** The bands of other stations, each folded to one sentence that leads there. */
import { computed } from "vue";

import { bandsBeside, wayTo } from "../stations";
import { useScene } from "../stores/scene";

const props = defineProps<{ at: string; side: "under" | "over" }>();
const scene = useScene();
const bands = computed(() =>
  bandsBeside(props.at, props.side)
    .map((s) => ({ name: s.name, says: s.band!(), to: wayTo(s.name, scene.opened?.id) }))
    .filter((b) => b.says),
);
</script>

<template>
  <template v-for="b in bands" :key="b.name">
    <h2>{{ b.name }}</h2>
    <p class="folded">
      <RouterLink :to="b.to">{{ b.says }}</RouterLink>
    </p>
  </template>
</template>

<style scoped>
h2 {
  padding: 8px 10px 2px;
  font-weight: 600;
  color: var(--ink-2);
}
.folded {
  padding: 0 10px 8px;
}
.folded a {
  color: var(--ink);
}
</style>
