<script setup lang="ts">
/** The bands of other stations, each folded to one sentence that leads there. */
import { computed } from "vue";

import { bandsBeside, wayTo } from "../stations";
import { useScene } from "../stores/scene";
import GlyphMark from "../ui/GlyphMark.vue";

const props = defineProps<{ at: string; side: "under" | "over" }>();
const scene = useScene();
const bands = computed(() =>
  bandsBeside(props.at, props.side)
    .map((s) => ({ name: s.name, says: s.band!(), to: wayTo(s.name, scene.opened?.id) }))
    .filter((b) => b.says),
);
</script>

<template>
  <div v-for="b in bands" :key="b.name" class="band">
    <h2>{{ b.name }}</h2>
    <p class="says">{{ b.says }}</p>
    <RouterLink class="bare" :to="b.to" :aria-label="`Go to ${b.name}`">
      <GlyphMark name="right" />
    </RouterLink>
  </div>
</template>

<style scoped>
.band {
  display: grid;
  grid-template-columns: auto 1fr auto;
  gap: 8px;
  align-items: center;
  min-height: 44px;
  padding: 4px 6px 4px 12px;
  border-bottom: 1px solid var(--line);
}
h2 {
  font-weight: 600;
}
.says {
  color: var(--ink-2);
  font-size: 12px;
  line-height: 16px;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 3;
  line-clamp: 3;
  overflow: hidden;
}
</style>
