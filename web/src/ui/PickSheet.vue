<script setup lang="ts">
/** What there is to choose from, in groups, each with its glyph and a line that says what it takes; found by typing, too. What
 * was chosen last comes first. */
import { computed, nextTick, onMounted, ref } from "vue";

import type { Kind } from "../api/client";
import GlyphMark from "./GlyphMark.vue";
import { useUsed } from "./used";

const props = defineProps<{ kinds: Kind[]; order: string[]; asks: string; about: string }>();
const emit = defineEmits<{ pick: [kind: Kind]; close: [] }>();
const used = useUsed(props.about);
const text = ref("");
const box = ref<HTMLInputElement>();
const sheet = ref<HTMLElement>();
/** Kinds by group, in the order of the groups; last the ones that are in none of these. */
const groups = computed(() => {
  const sought = text.value.trim().toLowerCase();
  const found = props.kinds.filter((k) => `${k.label} ${k.says}`.toLowerCase().includes(sought));
  const by = new Map<string, Kind[]>();
  const last = sought ? [] : used.last.value.flatMap((name) => found.filter((k) => k.kind === name));
  if (last.length) by.set("Used last", last);
  const names = [...new Set([...props.order, ...found.map((k) => k.group)])];
  for (const name of names) {
    const some = found.filter((k) => k.group === name);
    if (some.length) by.set(name, some);
  }
  return [...by];
});
/** Two columns of about the same height. */
const columns = computed(() => {
  const height = (some: [string, Kind[]][]) => some.reduce((sum, [, kinds]) => sum + kinds.length + 0.8, 0);
  let cut = 0;
  while (
    cut < groups.value.length &&
    height(groups.value.slice(0, cut + 1)) <= height(groups.value) / 2 + 0.9
  )
    cut++;
  return [groups.value.slice(0, cut), groups.value.slice(cut)].filter((c) => c.length);
});
function pick(kind: Kind): void {
  used.use(kind.kind);
  emit("pick", kind);
}
function first(): void {
  const one = groups.value[0]?.[1][0];
  if (text.value.trim() && one) pick(one);
}
function key(e: KeyboardEvent): void {
  if (e.key === "Escape") {
    e.stopPropagation();
    emit("close");
    return;
  }
  const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
  if (!by) return;
  e.preventDefault();
  const all = [...(sheet.value?.querySelectorAll<HTMLElement>("button.kind") ?? [])];
  const at = all.indexOf(document.activeElement as HTMLElement);
  (at + by < 0 ? box.value : all[Math.min(at + by, all.length - 1)])?.focus();
}
onMounted(() => void nextTick(() => box.value?.focus({ preventScroll: true })));
</script>

<template>
  <div ref="sheet" class="pick" role="dialog" :aria-label="asks" @keydown="key">
    <label class="find">
      <GlyphMark name="search" />
      <input ref="box" v-model="text" :aria-label="asks" :placeholder="asks" @keydown.enter.prevent="first" />
    </label>
    <div class="columns">
      <div v-for="(column, n) in columns" :key="n">
        <section v-for="[name, some] in column" :key="name" :aria-label="name">
          <h3>{{ name }}</h3>
          <button v-for="k in some" :key="k.kind" class="kind" type="button" @click="pick(k)">
            <GlyphMark :name="k.kind" />
            <span
              ><b>{{ k.label }}</b
              ><br /><span class="quiet">{{ k.says }}</span></span
            >
          </button>
        </section>
      </div>
      <p v-if="!groups.length" class="quiet" role="status">Nothing is called that.</p>
    </div>
    <slot />
  </div>
</template>

<style scoped>
.pick {
  width: min(540px, calc(100vw - 40px));
  max-height: min(560px, 72vh);
  overflow: auto;
  padding: 10px;
}
.find {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 10px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--paper);
}
.find:focus-within {
  border-color: var(--accent);
  box-shadow: 0 0 0 1px var(--accent);
}
.find input {
  flex: 1;
  min-height: 30px;
  border: 0;
  background: none;
  outline: none;
}
.columns {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 0 18px;
}
h3 {
  padding: 8px 6px 2px;
  font-size: 12px;
  color: var(--ink-2);
}
.kind {
  display: grid;
  grid-template-columns: 20px 1fr;
  gap: 10px;
  align-items: center;
  width: 100%;
  padding: 3px 6px;
  border: 0;
  border-radius: 4px;
  background: none;
  text-align: left;
  line-height: 1.25;
  cursor: pointer;
}
.kind:hover,
.kind:focus-visible {
  background: var(--accent-soft);
}
.kind .quiet {
  font-size: 12px;
}
.kind b {
  font-weight: 600;
}
</style>
