<script setup lang="ts">
/** The keys: what each does, and another one for it, or none. */
import { ElSwitch } from "element-plus";
import { ref } from "vue";

import { useKeys, type Action } from "./keys";

defineProps<{ fixed: [string, string][] }>();
const keys = useKeys();
/** The one a key is being chosen for. */
const choosing = ref("");
const trouble = ref("");

function pressed(e: KeyboardEvent, action: Action): void {
  if (choosing.value !== action.name || e.key === "Tab" || e.key === "Shift") return;
  e.preventDefault();
  e.stopPropagation();
  trouble.value = "";
  if (e.key !== "Escape") {
    trouble.value = keys.choose(action, e.key === "Backspace" || e.key === "Delete" ? "" : e.key);
    if (trouble.value) return;
  }
  choosing.value = "";
}
function begin(action: Action): void {
  trouble.value = "";
  choosing.value = choosing.value === action.name ? "" : action.name;
}
</script>

<template>
  <section class="sheet" aria-label="Shortcuts">
    <div class="head">
      <label class="all">
        <ElSwitch v-model="keys.chosen.off" :active-value="false" :inactive-value="true" size="small" />
        Single-key shortcuts
      </label>
      <button class="plain" type="button" @click="keys.reset">Reset</button>
    </div>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <dl>
      <template v-for="{ action, key } in keys.rows" :key="action.name">
        <dt>
          <button
            class="plain numeral"
            type="button"
            :class="{ on: choosing === action.name }"
            :aria-label="`${action.says}: ${key || 'no key'}. Choose another`"
            @click="begin(action)"
            @keydown="pressed($event, action)"
            @blur="choosing = ''"
          >
            {{ choosing === action.name ? "press a key" : key || "none" }}
          </button>
        </dt>
        <dd>{{ action.says }}</dd>
      </template>
      <template v-for="[k, v] in fixed" :key="k">
        <dt class="fixed">{{ k }}</dt>
        <dd>{{ v }}</dd>
      </template>
    </dl>
    <p><RouterLink to="/guide">Guide: one evening, from the card to the print</RouterLink></p>
    <p class="quiet">Press a key's button, then another key; Delete for none.</p>
  </section>
</template>

<style scoped>
.head,
.all {
  display: flex;
  align-items: center;
  gap: 8px;
}
.head {
  justify-content: space-between;
}
dl {
  display: grid;
  grid-template-columns: 112px 1fr;
  gap: 0 12px;
  margin: 6px 0;
  align-items: center;
}
dt {
  font-weight: 600;
}
dt button {
  min-width: 44px;
  min-height: 24px;
  text-align: left;
}
.fixed {
  padding-left: 6px;
}
dd {
  margin: 0;
}
.trouble {
  margin: 6px 0 0;
  font-weight: 600;
}
.quiet {
  margin: 4px 0 0;
}
</style>
