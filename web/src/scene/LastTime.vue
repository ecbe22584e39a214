<script setup lang="ts">
/** On opening a scene: what was changed when it was last worked on. Gone with the first thing that is done. */
import { useLocalStorage } from "@vueuse/core";
import { computed } from "vue";

import { moment } from "../model/facts";
import { useKeeps } from "../stores/keeps";
import { useScene } from "../stores/scene";
import GlyphMark from "../ui/GlyphMark.vue";

/** So many are said; of more, how many. */
const SAID = 4;
const scene = useScene();
const keeps = useKeeps();
/** What was read here stays read: by scene, the revision it told of. */
const read = useLocalStorage<Record<string, number>>("sun-latch-last-time", {});
const last = computed(() => {
  const { opened } = scene;
  if (!opened?.last_time || read.value[opened.id] === opened.revision.number) return null;
  return scene.revision?.number === opened.revision.number ? opened.last_time : null;
});
const said = computed(() => {
  const times = new Map<string, number>();
  for (const line of last.value?.changes ?? []) times.set(line, (times.get(line) ?? 0) + 1);
  const all = [...times].map(([line, n]) => (n > 1 ? `${line} (${n} times)` : line));
  return all.length > SAID + 1 ? [...all.slice(0, SAID), `and ${all.length - SAID} more`] : all;
});
function dismiss(): void {
  const { id, revision } = scene.opened!;
  read.value = { ...read.value, [id]: revision.number };
}
function compare(): void {
  const { before } = last.value!;
  dismiss();
  void keeps.compareWith(before, "Before last time");
}
</script>

<template>
  <section v-if="last && !keeps.way" class="last" aria-label="Last time">
    <h2>
      Last time, {{ moment(last.ended) }}
      <button class="bare" type="button" aria-label="Dismiss" @click="dismiss">
        <GlyphMark name="remove" />
      </button>
    </h2>
    <ul>
      <li v-for="line in said" :key="line">{{ line }}</li>
    </ul>
    <button class="plain" type="button" @click="compare">Compare with before</button>
  </section>
</template>

<style scoped>
.last {
  max-width: 460px;
  padding: 6px 10px 8px;
  border-radius: 4px;
  background: var(--panel);
}
h2 {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  font-size: 13px;
  font-weight: 600;
}
ul {
  margin: 0 0 6px;
  padding: 0;
  list-style: none;
}
</style>
