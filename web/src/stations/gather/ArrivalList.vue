<script setup lang="ts">
/** Files on their way in, each with how far it is; refused ones say why until they are put away. */
import { ElProgress } from "element-plus";
import { computed } from "vue";

import type { Arrival } from "../../composables/arrivals";

const props = defineProps<{ arrivals: Arrival[] }>();
defineEmits<{ stop: [line: Arrival]; stopAll: [] }>();
const waiting = computed(() => props.arrivals.filter((a) => a.state === "waiting"));
const shown = computed(() => props.arrivals.filter((a) => a.state !== "waiting"));
const SAYS = { sending: "arriving", reading: "reading the frame", waiting: "", refused: "" };
</script>

<template>
  <ul v-if="arrivals.length" class="arrivals" aria-live="polite">
    <li v-for="(a, n) in shown" :key="n">
      <template v-if="a.state === 'refused'">
        <span class="problem" role="alert">{{ a.said }}</span>
        <button class="plain" type="button" @click="$emit('stop', a)">Dismiss</button>
      </template>
      <template v-else>
        <span class="name">{{ a.name }}</span>
        <ElProgress :percentage="Math.round(a.share * 100)" :show-text="false" :aria-label="a.name" />
        <span class="quiet">{{ SAYS[a.state] }}</span>
        <button class="plain" type="button" :aria-label="`Stop ${a.name}`" @click="$emit('stop', a)">
          Stop
        </button>
      </template>
    </li>
    <li v-if="waiting.length">
      <span class="quiet">{{ waiting.length }} more to come</span>
      <button class="plain" type="button" @click="$emit('stopAll')">Stop all</button>
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
  grid-template-columns: 260px 220px 140px 1fr;
  gap: 12px;
  align-items: center;
  justify-items: start;
  padding: 4px 0;
}
li :deep(.el-progress) {
  width: 220px;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 260px;
}
.problem {
  grid-column: 1 / 4;
}
</style>
