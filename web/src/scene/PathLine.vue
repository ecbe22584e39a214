<script setup lang="ts">
/** The path: its stones; what is open stands under each. Stations to come are shown but not open. */
import { wayTo } from "../stations";
import { PATH } from "../stations/station";

const props = defineProps<{
  at: string;
  sceneId?: string;
  outingId?: string;
  /** What is open, by stone. */
  says?: Record<string, string | undefined>;
}>();
const way = (stone: string) => (stone === props.at ? "" : wayTo(stone, props.sceneId, props.outingId));
</script>

<template>
  <nav class="path" aria-label="The path">
    <ol>
      <li v-for="stone in PATH" :key="stone" :class="{ here: stone === at }">
        <RouterLink v-if="way(stone)" :to="way(stone)">{{ stone }}</RouterLink>
        <span v-else :aria-current="stone === at ? 'step' : undefined" :class="{ later: stone !== at }">{{
          stone
        }}</span>
        <small v-if="says?.[stone]" :data-help="says[stone]">{{ says[stone] }}</small>
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
  border-top: 1px solid var(--edge-2);
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
  border: 1px solid var(--ink-3);
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
/* the whole stone is what one presses */
a::after {
  content: "";
  position: absolute;
  inset: 0;
}
.later {
  color: var(--dim);
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
