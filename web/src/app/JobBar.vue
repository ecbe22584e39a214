<script setup lang="ts">
/** How far a piece of long work is, and what came of it. */
import { ElProgress } from "element-plus";
import { computed } from "vue";

import { going, type Job } from "../stores/tray";

const props = defineProps<{ job: Job; label: string }>();
const emit = defineEmits<{ stop: [] }>();
const running = computed(() => going(props.job));
</script>

<template>
  <div class="bar" aria-live="polite">
    <template v-if="running">
      <ElProgress
        class="wide"
        :percentage="Math.round(job.done * 100)"
        :show-text="false"
        :aria-label="label"
      />
      <span class="quiet">{{ job.step }}</span>
      <button class="plain" type="button" @click="emit('stop')">Stop</button>
    </template>
    <span v-else role="status">{{ job.message }}</span>
  </div>
</template>

<style scoped>
.wide {
  width: 420px;
}
</style>
