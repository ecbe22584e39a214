<script setup lang="ts">
/** A menu that opens at its button. Escape closes it, wherever the focus is. */
import { useEventListener } from "@vueuse/core";
import { ElDropdown } from "element-plus";
import { ref } from "vue";

const emit = defineEmits<{ visibleChange: [open: boolean]; command: [what: never] }>();
const menu = ref<InstanceType<typeof ElDropdown>>();
const open = ref(false);
function seen(now: boolean): void {
  open.value = now;
  emit("visibleChange", now);
}
useEventListener(
  window,
  "keydown",
  (e) => {
    if (e.key !== "Escape" || !open.value) return;
    e.stopPropagation();
    e.preventDefault();
    menu.value?.handleClose();
  },
  { capture: true },
);
</script>

<template>
  <ElDropdown
    ref="menu"
    trigger="click"
    :hide-timeout="0"
    @command="(what: never) => emit('command', what)"
    @visible-change="seen"
  >
    <slot />
    <template #dropdown><slot name="dropdown" /></template>
  </ElDropdown>
</template>
