<script setup lang="ts">
/** Where a line applies: its latch, and what it spares. */
import { computed } from "vue";

import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import InlineNumber from "./InlineNumber.vue";

interface Held {
  latch?: string | null;
  spare?: unknown[];
}
const props = defineProps<{ line: Held; said: string; scope: string }>();
const scene = useScene();
const view = useView();
/** The document's own line: a change to it is a change to the scene. */
const held = computed(() => props.line);
interface Spared {
  what: string;
  edge: number;
}
/** Where the shadows or highlights that are spared begin. */
const edges = computed(() => ((props.line.spare ?? []) as Spared[]).filter((s) => s.what !== "colour"));
const EDGE = computed(() => scene.vocabulary?.spare.find((f) => f.name === "edge"));
function move(one: Spared, to: number): void {
  one.edge = to;
  scene.touched();
}
const spared = computed(() => ((props.line.spare ?? []) as { what: string }[]).map((s) => s.what));

function latchTo(id: string | null): void {
  held.value.latch = id;
  void scene.commit(id ? `${props.said} latched to ${scene.nameOf(id)}` : `${props.said} everywhere`);
}
function spare(what: "shadows" | "highlights"): void {
  const has = spared.value.includes(what);
  const now = (held.value.spare ?? []) as { what: string }[];
  held.value.spare = has ? now.filter((s) => s.what !== what) : [...now, scene.spareOf(what)];
  void scene.commit(`${props.said} ${has ? "no longer sparing" : "sparing"} ${what}`);
}
function colour(e: Event): void {
  if (spared.value.includes("colour")) {
    held.value.spare = (held.value.spare ?? []).filter((s) => (s as { what: string }).what !== "colour");
    void scene.commit(`${props.said} no longer sparing a colour`);
  } else {
    (e.target as HTMLInputElement).checked = false; // it is spared once it is pointed at
    view.tool = view.tool === "spare" ? "" : "spare";
  }
}
defineExpose({ latchTo });
</script>

<template>
  <div class="where">
    <label :for="`${scope}-latch`">Latched to</label>
    <select
      :id="`${scope}-latch`"
      class="boxed"
      :value="line.latch ?? ''"
      @change="latchTo(($event.target as HTMLSelectElement).value || null)"
    >
      <option value="">everywhere</option>
      <option v-for="l in scene.latches" :key="l.id" :value="l.id">{{ l.name }}</option>
    </select>
  </div>
  <div class="where">
    <span>Sparing</span>
    <label v-for="what in ['shadows', 'highlights'] as const" :key="what"
      ><input type="checkbox" :checked="spared.includes(what)" @change="spare(what)" /> {{ what }}</label
    >
    <label><input type="checkbox" :checked="spared.includes('colour')" @change="colour" /> a colour</label>
  </div>
  <div v-for="one in edges" :key="one.what" class="where">
    <span />
    <span
      >{{ one.what }} {{ one.what === "shadows" ? "under" : "over" }}
      <InlineNumber
        v-if="EDGE"
        :field="EDGE"
        :value="one.edge"
        :name="`Spared ${one.what}`"
        @change="(v) => move(one, v)"
        @commit="scene.commit(`${said} sparing ${one.what}`)"
    /></span>
  </div>
</template>

<style scoped>
.where {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 2px 6px;
  white-space: nowrap;
  padding-top: 4px;
}
.where > :first-child {
  min-width: 50px;
}
.where input {
  margin: 0 1px 0 0;
}
.where select {
  flex: 1;
}
</style>
