<script setup lang="ts">
/** The path: six stones; what is open stands under each. Stations to come are shown but not open. */
import { computed } from "vue";

const props = defineProps<{
  at: string;
  sceneId?: string;
  outingId?: string;
  gatherSays?: string;
  groundSays?: string;
  lightSays?: string;
}>();
const SAYS = computed<Record<string, string | undefined>>(() => ({
  Gather: props.gatherSays,
  Ground: props.groundSays,
  Light: props.lightSays,
}));
function way(stone: string): string {
  if (stone === props.at) return "";
  if (stone === "Gather") return props.outingId ? `/outing/${props.outingId}` : "/";
  if (props.sceneId && (stone === "Ground" || stone === "Light"))
    return `/${stone.toLowerCase()}/${props.sceneId}`;
  return "";
}
const STONES = ["Gather", "Join", "Ground", "Light", "Mend", "Proof"];
</script>

<template>
  <nav class="path" aria-label="The path">
    <ol>
      <li v-for="stone in STONES" :key="stone" :class="{ here: stone === at }">
        <RouterLink v-if="way(stone)" :to="way(stone)">{{ stone }}</RouterLink>
        <span v-else :aria-current="stone === at ? 'step' : undefined" :class="{ later: stone !== at }">{{
          stone
        }}</span>
        <small v-if="SAYS[stone]" :title="SAYS[stone]">{{ SAYS[stone] }}</small>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
ol {
  display: flex;
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  position: relative;
  width: 84px;
  text-align: center;
  padding-top: 15px;
  line-height: 1.15;
}
li::before {
  content: "";
  position: absolute;
  left: 0;
  right: 0;
  top: 6px;
  border-top: 1px solid #9a9a9a;
}
li:first-child::before {
  left: 50%;
}
li:last-child::before {
  right: 50%;
}
li::after {
  content: "";
  position: absolute;
  left: calc(50% - 4px);
  top: 2px;
  width: 9px;
  height: 9px;
  border-radius: 50%;
  background: var(--panel);
  border: 1px solid #6b6b6b;
}
li.here::after {
  background: var(--accent);
  border-color: var(--accent);
}
li.here {
  font-weight: 600;
}
a {
  color: var(--ink);
}
.later {
  color: #5c5c5c;
}
li.here .later {
  color: var(--ink);
}
small {
  display: block;
  font-weight: 400;
  font-size: 11px;
  color: var(--ink-2);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
