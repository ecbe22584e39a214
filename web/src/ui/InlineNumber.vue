<script setup lang="ts">
/** A live number in a sentence: drag it sideways, use the arrow keys, or type over it. */
import { computed, nextTick, ref } from "vue";

import type { ParamField } from "../api/client";
import { useDrag } from "../composables/drag";
import { useHeld } from "../composables/held";
import { numeral, shown, typed, within } from "../model/wording";

const props = defineProps<{ field: ParamField; value: unknown; name?: string }>();
const emit = defineEmits<{ change: [value: number]; commit: [] }>();

const typing = ref(false);
const text = ref("");
const box = ref<HTMLInputElement>();
const number = computed(() => (typeof props.value === "number" ? props.value : null));
const label = computed(() => props.name ?? props.field.label);
const held = useHeld();
const step = () => (props.field.step ?? 0.1) as number;

const { down, move, up } = useDrag<number>({
  begin: () => number.value ?? (props.field.default as number | null) ?? props.field.low ?? 0,
  move(start, e, dx) {
    const grid = e.shiftKey ? step() / 10 : step();
    const raw = start + (dx / 8) * grid;
    emit("change", within(props.field, Math.round(raw / grid) * grid));
  },
  done: () => emit("commit"),
  click: () => void type(),
});
async function type(begun?: string): Promise<void> {
  text.value = begun ?? (number.value === null ? "" : numeral(props.field, number.value).replace("−", "-"));
  typing.value = true;
  await nextTick();
  if (begun === undefined) box.value?.select();
  else box.value?.focus();
}
function finish(): void {
  if (!typing.value) return;
  typing.value = false;
  const value = typed(props.field, text.value);
  if (value !== null && value !== number.value) {
    emit("change", value);
    emit("commit");
  }
}
function key(e: KeyboardEvent): void {
  const steps: Record<string, number> = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 };
  const by = steps[e.key];
  if (by !== undefined) {
    e.preventDefault();
    e.stopPropagation();
    const value = (number.value ?? 0) + by * step() * (e.shiftKey ? 0.1 : 1);
    emit("change", within(props.field, value));
    held.pressed(() => emit("commit"));
  } else if (e.key === "Enter") {
    e.preventDefault();
    void type();
  } else if (/^[\d.,\-−]$/.test(e.key) && !e.ctrlKey && !e.metaKey && !e.altKey) {
    e.preventDefault(); // digits typed at a number are digits
    void type(e.key.replace("−", "-"));
  }
}
</script>

<template>
  <input
    v-if="typing"
    ref="box"
    v-model="text"
    class="typing numeral"
    :aria-label="label"
    @keydown.enter.prevent="finish"
    @keydown.esc.stop="typing = false"
    @blur="finish"
  />
  <span
    v-else
    class="number numeral"
    role="spinbutton"
    tabindex="0"
    :aria-label="label"
    :aria-valuenow="number ?? undefined"
    :aria-valuemin="field.low ?? undefined"
    :aria-valuemax="field.high ?? undefined"
    :aria-valuetext="shown(field, value)"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @click.stop
    @keydown="key"
    >{{ shown(field, value) }}</span
  >
</template>

<style scoped>
.number {
  display: inline-block;
  min-width: 28px;
  min-height: 24px;
  line-height: 23px;
  padding: 0 1px;
  font-weight: 600;
  cursor: ew-resize;
  border-bottom: 1px dotted var(--ink-3);
  touch-action: none;
  user-select: none;
}
.number:hover {
  background: var(--accent-soft);
}
.typing {
  width: 64px;
  border: 1px solid var(--accent);
  border-radius: 2px;
}
</style>
