<script setup lang="ts">
/** Files on their way in, each with how far it is; refused ones say why until they are put away. */
import { ElProgress } from "element-plus";

import type { Arrival } from "../composables/arrivals";

defineProps<{ arrivals: Arrival[] }>();
defineEmits<{ away: [index: number] }>();
</script>

<template>
  <ul v-if="arrivals.length" class="arrivals" aria-live="polite">
    <li v-for="(a, n) in arrivals" :key="n">
      <template v-if="a.state === 'refused'">
        <span class="problem" role="alert">{{ a.said }}</span>
        <button class="plain" type="button" @click="$emit('away', n)">Put away</button>
      </template>
      <template v-else>
        <span>{{ a.name }}</span>
        <ElProgress :percentage="Math.round(a.share * 100)" :show-text="false" :aria-label="a.name" />
        <span class="quiet">{{ a.state === "reading" ? "reading the frame" : "arriving" }}</span>
      </template>
    </li>
  </ul>
</template>

<style scoped>
.arrivals {
  list-style: none;
  padding: 4px 14px;
  margin: 0;
}
li {
  display: grid;
  grid-template-columns: 260px 220px 1fr;
  gap: 12px;
  align-items: center;
  padding: 4px 0;
}
.problem {
  grid-column: 1 / 3;
}
</style>
