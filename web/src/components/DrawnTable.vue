<script setup lang="ts">
/** Things drawn for a move, a row each: what each declares, as live numbers. */
import type { ParamField } from "../api/client";
import { inSrgb } from "../model/oklab";
import type { Values } from "../model/wording";
import { useScene } from "../stores/scene";
import InlineNumber from "./InlineNumber.vue";

const props = defineProps<{ field: ParamField; rows: Values[]; said: string }>();
const scene = useScene();

function set(row: Values, name: string, value: number): void {
  row[name] = value;
  scene.touched();
}
function drop(n: number): void {
  // the rows are the document's own
  // eslint-disable-next-line vue/no-mutating-props
  props.rows.splice(n, 1);
  void scene.commit(`${props.said}: one taken out`);
}
interface Picked {
  u: number;
  v: number;
}
/** A picked colour as it looks at one lightness. */
const swatch = (row: Values): string => {
  const p = row.picked as Picked;
  return inSrgb(0.7, 0.7 * p.u, 0.7 * p.v);
};
</script>

<template>
  <ul v-if="rows.length" :aria-label="field.label">
    <li v-for="(row, n) in rows" :key="n">
      <span v-if="row.picked" class="swatch" :style="{ background: swatch(row) }" />
      <span v-for="f in field.items ?? []" :key="f.name" class="one"
        >{{ f.label }}
        <InlineNumber
          :field="f"
          :value="row[f.name]"
          :name="`${said}, ${n + 1}: ${f.label}`"
          @change="(v) => set(row, f.name, v)"
          @commit="scene.commit(`${said} ${f.label}`)"
      /></span>
      <button class="plain" type="button" :aria-label="`Take out ${n + 1}`" @click="drop(n)">×</button>
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 4px 0;
  padding: 0;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 5px;
  border: 0;
  padding: 2px 0;
}
.one {
  white-space: nowrap;
  color: var(--ink-2);
}
.swatch {
  width: 22px;
  height: 20px;
  border: 1px solid #444;
}
li > button {
  margin-left: auto;
}
</style>
