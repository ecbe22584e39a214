<script setup lang="ts">
/** Asked of a place that was pointed at: what is wrong there, and what could be done. Pointing at an answer shows
 * it; taking it writes the line. */
import { vPoint } from "../../ui/point";
import { nextTick, onBeforeUnmount, onMounted, ref, watch } from "vue";

import { client, need, type Latch, type MoveLine, type Schemas } from "../../api/client";
import { useAsked } from "../../composables/asked";
import { useTrial } from "../../composables/trial";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import GlyphMark from "../../ui/GlyphMark.vue";

type Complaint = Schemas["Complained"]["wrong"];
const scene = useScene();
const view = useView();
const trial = useTrial();
const wrong = ref<Complaint | "">("");
const panel = ref<HTMLElement>();

/** How often it was asked: the same once more is looked for once more. */
const times = ref(0);
const { value: remedies } = useAsked(
  () =>
    wrong.value && view.wrong && scene.opened
      ? { what: wrong.value, at: view.wrong, time: times.value }
      : null,
  ({ what, at }, signal) => {
    const params = { path: { scene_id: scene.opened!.id } };
    const body = { document: trial.without(), ...at, wrong: what };
    return need(client.POST("/api/scenes/{scene_id}/remedies", { params, body, signal })) as Promise<
      Schemas["Remedy"][]
    >;
  },
  (refusal) => {
    if (!refusal) return scene.notices.settle("remedies");
    scene.notices.tell("remedies", refusal);
    close();
  },
);
function say(what: Complaint): void {
  trial.leave();
  remedies.value = null;
  times.value++;
  wrong.value = what;
}
const labelOf = (kind: string) => scene.lightKinds.find((k) => k.kind === kind)?.label ?? "";
function show(r: Schemas["Remedy"]): void {
  trial.show(r.line as MoveLine, r.latch as Latch | null);
}
function take(r: Schemas["Remedy"]): void {
  show(r);
  const on = scene.nameOf(r.line.latch);
  scene.openMove = trial.take(`${labelOf(r.line.kind)}${on ? ` on ${on}` : ""}`);
  view.wrong = null;
}
function close(): void {
  trial.leave();
  view.wrong = null;
}
function key(e: KeyboardEvent): void {
  if (e.key !== "Escape") return;
  close();
  e.stopPropagation();
}
watch(
  () => view.wrong,
  async () => {
    trial.leave();
    wrong.value = "";
    await nextTick();
    panel.value?.querySelector<HTMLElement>(".complaints button")?.focus();
  },
  { immediate: true },
);
onMounted(() => window.addEventListener("keydown", key, true));
onBeforeUnmount(() => {
  window.removeEventListener("keydown", key, true);
  trial.leave();
});
</script>

<template>
  <section ref="panel" class="wrong" aria-label="What is wrong here">
    <h2>
      What is wrong here?
      <button class="bare" type="button" aria-label="Close" @click="close">
        <GlyphMark name="remove" />
      </button>
    </h2>
    <div class="complaints">
      <button
        v-for="(label, what) in scene.vocabulary?.complaints"
        :key="what"
        class="plain"
        type="button"
        :aria-pressed="wrong === what"
        @click="say(what as Complaint)"
      >
        {{ label }}
      </button>
    </div>
    <p v-if="wrong && !remedies" class="quiet" role="status">Looking at the place …</p>
    <ul v-if="remedies" @mouseleave="trial.leave()">
      <li v-for="(r, n) in remedies" :key="n">
        <button
          v-point="(on) => on && show(r)"
          class="remedy"
          type="button"
          @focus="show(r)"
          @click="take(r)"
        >
          {{ r.description }}
        </button>
      </li>
    </ul>
    <p v-if="remedies" class="quiet">Hover to preview, click to apply.</p>
  </section>
</template>

<style scoped>
.wrong {
  padding: 8px 10px 12px;
  border-block: 1px solid var(--line);
  background: var(--leaf);
  box-shadow: inset 3px 0 0 var(--accent);
}
h2 {
  display: flex;
  justify-content: space-between;
  font-weight: 600;
}
.complaints {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 4px;
}
[aria-pressed="true"] {
  font-weight: 600;
  background: var(--accent-soft);
}
ul {
  list-style: none;
  margin: 6px 0 4px;
  padding: 0;
  border-top: 1px solid var(--line);
}
.remedy {
  width: 100%;
  text-align: left;
  border: 0;
  border-bottom: 1px solid var(--line);
  background: none;
  padding: 6px 4px;
  font: inherit;
  cursor: pointer;
}
.remedy:hover,
.remedy:focus-visible {
  background: var(--accent-soft);
}
</style>
