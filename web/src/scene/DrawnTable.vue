<script setup lang="ts">
/** Things drawn for a move, a row each: what each declares, as live numbers. */
import { onBeforeUnmount } from "vue";

import { client, need, type ParamField } from "../api/client";
import { useAsked } from "../composables/asked";
import { inSrgb } from "../model/oklab";
import type { Values } from "../model/wording";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import InlineNumber from "../ui/InlineNumber.vue";

const props = defineProps<{ field: ParamField; rows: Values[]; said: string; move: string }>();
const scene = useScene();
const view = useView();

function set(row: Values, name: string, value: number): void {
  scene.put(row, name, value);
}
function drop(n: number): void {
  const { rows } = props; // the document's own
  void scene.edit(`Remove one of ${props.said}`, () => rows.splice(n, 1));
}
/** Where one of them acts is shown while it is pointed at, not while it is changed. */
function show(n: number): void {
  view.zone = { move: props.move, n };
}
function hide(): void {
  view.zone = null;
}
onBeforeUnmount(hide);

/** Colours that reach into one another share what lies between them. */
const { value: shares } = useAsked(
  () => {
    if (scene.dragging) return undefined;
    const several = props.rows.length > 1 && !!props.rows[0]!.picked;
    return several && scene.opened ? { id: scene.opened.id, tick: scene.tick } : null;
  },
  ({ id }, signal) => {
    const params = { path: { scene_id: id } };
    const body = { document: scene.current(), move: props.move };
    return need(client.POST("/api/scenes/{scene_id}/shared", { params, body, signal }));
  },
);
function sharing(n: number): string {
  const s = shares.value?.[n];
  return s && s.much > 0.05 ? `shares ${Math.round(s.much * 100)} % with ${s.other + 1}` : "";
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
    <li
      v-for="(row, n) in rows"
      :key="n"
      @mouseenter="show(n)"
      @mouseleave="hide"
      @focusin="show(n)"
      @focusout="hide"
    >
      <span class="fields">
        <span v-if="row.picked" class="number">{{ n + 1 }}</span>
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
        <span v-if="sharing(n)" class="quiet">{{ sharing(n) }}</span>
      </span>
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
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: start;
  border: 0;
  padding: 2px 0;
}
.fields {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 5px;
}
.one {
  white-space: nowrap;
  color: var(--ink-2);
}
.number {
  color: var(--ink-2);
}
.swatch {
  width: 22px;
  height: 20px;
  border: 1px solid var(--ink-2);
}
</style>
