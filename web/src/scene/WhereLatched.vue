<script setup lang="ts">
/** Where a line applies: its latch, and what it spares. */
import { computed } from "vue";

import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import ChoiceBox from "../ui/ChoiceBox.vue";
import InlineNumber from "../ui/InlineNumber.vue";

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

const latches = computed(() => [
  { value: "", label: "the whole picture" },
  ...scene.latches.map((l) => ({ value: l.id!, label: l.name })),
]);
function latchTo(id: string | null): void {
  held.value.latch = id;
  void scene.commit(id ? `Latch ${props.said} to ${scene.nameOf(id)}` : `${props.said} on the whole picture`);
}
function spare(what: "shadows" | "highlights"): void {
  const has = spared.value.includes(what);
  const now = (held.value.spare ?? []) as { what: string }[];
  held.value.spare = has ? now.filter((s) => s.what !== what) : [...now, scene.spareOf(what)];
  void scene.commit(`${has ? "Stop sparing" : "Spare"} ${what}`);
}
function colour(): void {
  if (spared.value.includes("colour")) {
    held.value.spare = (held.value.spare ?? []).filter((s) => (s as { what: string }).what !== "colour");
    void scene.commit(`Stop sparing colour`);
  } else {
    // it is spared once it is pointed at
    view.tool = view.tool === "spare" ? "" : "spare";
  }
}
defineExpose({ latchTo });
</script>

<template>
  <div class="where">
    <span>Latched to</span>
    <ChoiceBox
      :value="line.latch ?? ''"
      :options="latches"
      :label="`${said}: latched to`"
      @choose="latchTo($event || null)"
    />
  </div>
  <div class="where" role="group" aria-label="Sparing">
    <span>Sparing</span>
    <span class="some">
      <button
        v-for="what in ['shadows', 'highlights'] as const"
        :key="what"
        class="plain small"
        type="button"
        :aria-pressed="spared.includes(what)"
        @click="spare(what)"
      >
        {{ what }}
      </button>
      <button
        class="plain small"
        type="button"
        aria-label="a colour"
        :aria-pressed="spared.includes('colour')"
        @click="colour"
      >
        colour
      </button>
    </span>
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
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr);
  align-items: center;
  gap: 6px;
  padding-top: 6px;
}
.where > :first-child {
  color: var(--ink-2);
}
.some {
  display: flex;
  gap: 4px;
}
.small {
  padding: 1px 6px;
  min-height: 24px;
  font-size: 12px;
}
</style>
