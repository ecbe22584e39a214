<script setup lang="ts">
/** One of several, chosen from a list. What is chosen is taken when it is clicked or entered, never by an arrow key. */
import { ElOption, ElSelect } from "element-plus";
import { ref } from "vue";

defineProps<{ value: string; options: { value: string; label: string }[]; label: string; wide?: string }>();
const emit = defineEmits<{ choose: [value: string] }>();
const open = ref(false);
/** A list that is closed has no use for Escape; whoever stands around it has. */
function escape(e: KeyboardEvent): void {
  if (open.value) return;
  e.stopPropagation();
  document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "Escape", bubbles: true }));
}
</script>

<template>
  <ElSelect
    :model-value="value"
    size="small"
    :aria-label="label"
    :style="{ width: wide ?? '100%' }"
    :empty-values="[null]"
    :fallback-placements="['bottom-start', 'top-start']"
    @visible-change="(seen: boolean) => (open = seen)"
    @keydown.esc.capture="escape"
    @change="emit('choose', String($event))"
  >
    <ElOption v-for="o in options" :key="o.value" :value="o.value" :label="o.label" />
  </ElSelect>
</template>
