<script setup lang="ts">
/** The drawer that slides over the ladder: its name, a way out, and what it holds. */
import { nextTick, onBeforeUnmount, onMounted, ref } from "vue";

import GlyphMark from "./GlyphMark.vue";

const props = defineProps<{ name: string }>();
const emit = defineEmits<{ close: [] }>();
const head = ref<HTMLElement>();
/** What had the focus goes on having it when the drawer is gone. */
const before = document.activeElement as HTMLElement | null;
onMounted(() => void nextTick(() => head.value?.focus({ preventScroll: true })));
onBeforeUnmount(() => {
  if (head.value?.closest("aside")?.contains(document.activeElement)) before?.focus?.();
});
const label = () => `Close ${props.name.toLowerCase()}`;
</script>

<template>
  <aside class="drawer" :aria-label="`${name} drawer`">
    <header>
      <h2 ref="head" tabindex="-1">{{ name }}</h2>
      <button class="bare" type="button" :aria-label="label()" @click="emit('close')">
        <GlyphMark name="remove" />
      </button>
    </header>
    <div class="inside"><slot /></div>
  </aside>
</template>

<style scoped>
.drawer {
  position: absolute;
  z-index: 8;
  top: 0;
  right: 0;
  bottom: 0;
  width: 348px;
  max-width: 100%;
  display: flex;
  flex-direction: column;
  background: var(--panel);
  border-left: 1px solid var(--edge);
  box-shadow: -6px 0 18px rgb(0 0 0 / 14%);
}
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
  min-height: 44px;
  padding: 0 8px 0 16px;
  border-bottom: 1px solid var(--line);
}
h2 {
  font-size: 16px;
  font-weight: 600;
}
h2:focus {
  outline: none;
}
.inside {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 12px 16px 16px;
}
</style>
