<script setup lang="ts">
/** Two states of the scene at one place and size: split by a line that is dragged, side by side, by turns, or as their
 * difference. */
import { ElButton, ElOption, ElSelect } from "element-plus";
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";

import type { Refusal, SceneDocument } from "../api/client";
import PictureView from "./PictureView.vue";
import type { Wish } from "./shown";
import { useKeeps, WAYS, type Way } from "../stores/keeps";
import { useProof } from "../stores/proof";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

/** How long each is shown by turns, ms. */
const TURN = 700;
const keeps = useKeeps();
const proof = useProof();
const scene = useScene();
const view = useView();
const box = ref<HTMLDivElement>();
/** Which of both is shown by turns. */
const first = ref(false);
let timer = 0;

function wish(name: string, document: () => SceneDocument | null, path = "picture"): Wish | null {
  const id = scene.opened?.id;
  if (!id || !document()) return null;
  const body = () => ({
    document: JSON.parse(JSON.stringify(document())) as Record<string, unknown>,
    ...(path === "difference"
      ? { other: JSON.parse(JSON.stringify(keeps.other)) as Record<string, unknown> }
      : view.station === "Proof"
        ? { proof: proof.look, paper_white: proof.white }
        : {}),
  });
  return { path: `/api/scenes/${id}/${path}`, view: `compare-${name}`, body, state: name };
}
const now = computed(() => (void scene.tick, wish("now", () => scene.document)));
const before = computed(() => (void scene.tick, wish("before", () => keeps.other)));
/** Another scene, as it is saved; its size comes with its picture. */
const theirs = computed<Wish | null>(() =>
  keeps.elsewhere
    ? {
        path: `/api/scenes/${keeps.elsewhere.id}/picture`,
        view: "compare-theirs",
        body: () => ({}),
        state: keeps.elsewhere.id,
      }
    : null,
);
const plane = ref<{ width: number; height: number }>({ width: 3, height: 2 });
onMounted(() => void keeps.loadOthers());
const apart = computed(
  () => (void scene.tick, keeps.other ? wish("apart", () => scene.document, "difference") : null),
);
watch(
  () => keeps.way,
  (way) => {
    window.clearInterval(timer);
    first.value = false;
    if (way === "blink") timer = window.setInterval(() => (first.value = !first.value), TURN);
  },
  { immediate: true },
);
onBeforeUnmount(() => window.clearInterval(timer));

const clip = computed(() => {
  if (keeps.way === "blink") return first.value ? "none" : "inset(100%)";
  const at = `${keeps.split.at * 100}%`;
  return keeps.split.upright ? `inset(0 calc(100% - ${at}) 0 0)` : `inset(0 0 calc(100% - ${at}) 0)`;
});
function drag(e: PointerEvent): void {
  const handle = e.currentTarget as HTMLElement;
  if (e.type === "pointerdown") {
    handle.setPointerCapture(e.pointerId);
    e.preventDefault();
    handle.focus();
  } else if (!handle.hasPointerCapture(e.pointerId)) return;
  const r = box.value!.getBoundingClientRect();
  const at = keeps.split.upright ? (e.clientX - r.left) / r.width : (e.clientY - r.top) / r.height;
  keeps.split.at = Math.min(1, Math.max(0, at));
}
const STEPS: Record<string, number> = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 };
function key(e: KeyboardEvent): void {
  const by = STEPS[e.key];
  if (!by) return;
  keeps.split.at = Math.min(1, Math.max(0, keeps.split.at + by * (e.shiftKey ? 0.005 : 0.03)));
  e.preventDefault();
  e.stopPropagation();
}
const failed = (error: Refusal) => scene.notices.tell("compare", error);
const others = computed(() => [
  { value: "light", label: "Before Light" },
  { value: "original", label: "Original, as shot" },
  ...keeps.keeps.map((k) => ({ value: k.id, label: k.name })),
  ...keeps.others.map((o) => ({ value: `scene ${o.id}`, label: `Scene ${o.name}` })),
]);
</script>

<template>
  <div ref="box" class="pair" :class="keeps.way">
    <template v-if="keeps.way === 'difference'">
      <PictureView
        :wish="apart"
        :plane="scene.plane"
        :seen="view.seen"
        :class="view.surround"
        :label="`Difference in stops: ${keeps.named} and now`"
        @failed="failed"
      />
      <p class="scale">
        <span class="wedge" aria-hidden="true" />
        2 stops darker now · alike · 2 stops lighter now
      </p>
    </template>
    <template v-else>
      <PictureView
        v-if="keeps.way === 'side'"
        :wish="keeps.elsewhere ? theirs : before"
        :plane="keeps.elsewhere ? plane : scene.plane"
        :seen="view.seen"
        :class="view.surround"
        :label="keeps.named"
        @map="(map) => (plane = { width: map.size[0]!, height: map.size[1]! })"
        @failed="failed"
        ><template #default
          ><p class="whose">{{ keeps.named }}</p></template
        ></PictureView
      >
      <PictureView
        :wish="now"
        :plane="scene.plane"
        :seen="view.seen"
        :class="view.surround"
        label="Now"
        @failed="failed"
        ><template #default
          ><p class="whose" :class="{ end: keeps.way !== 'side' }">
            {{ keeps.way === "blink" && first ? keeps.named : "Now" }}
          </p></template
        ></PictureView
      >
      <div v-if="keeps.way !== 'side'" class="over" :style="{ clipPath: clip }">
        <PictureView
          :wish="before"
          :plane="scene.plane"
          :seen="view.seen"
          :class="view.surround"
          :label="keeps.named"
          @failed="failed"
          ><template #default
            ><p class="whose">{{ keeps.named }}</p></template
          ></PictureView
        >
      </div>
      <div
        v-if="keeps.way === 'split'"
        class="line"
        :class="{ upright: keeps.split.upright }"
        :style="
          keeps.split.upright ? { left: `${keeps.split.at * 100}%` } : { top: `${keeps.split.at * 100}%` }
        "
        role="slider"
        tabindex="0"
        aria-label="Where the split lies"
        :aria-orientation="keeps.split.upright ? 'horizontal' : 'vertical'"
        aria-valuemin="0"
        aria-valuemax="100"
        :aria-valuenow="Math.round(keeps.split.at * 100)"
        :aria-valuetext="`${Math.round(keeps.split.at * 100)} % ${keeps.named}`"
        @pointerdown="drag"
        @pointermove="drag"
        @keydown="key"
      />
    </template>
    <div class="bar" role="toolbar" aria-label="Compare">
      <ElSelect
        :model-value="keeps.with_"
        size="small"
        class="with"
        aria-label="Compare now with"
        @change="(v: string) => keeps.compare(v)"
      >
        <ElOption v-for="o in others" :key="o.value" :value="o.value" :label="o.label" />
      </ElSelect>
      <ElSelect
        :model-value="keeps.way"
        size="small"
        class="how"
        aria-label="How"
        @change="(v: Way) => (keeps.way = v)"
      >
        <ElOption
          v-for="(label, k) in WAYS"
          :key="k"
          :value="k"
          :label="label"
          :disabled="!!keeps.elsewhere && k !== 'side'"
        />
      </ElSelect>
      <ElButton
        v-if="keeps.way === 'split'"
        size="small"
        @click="keeps.split.upright = !keeps.split.upright"
        >{{ keeps.split.upright ? "Level line" : "Upright line" }}</ElButton
      >
      <ElButton
        size="small"
        :aria-expanded="!!keeps.changes"
        @click="keeps.changes ? (keeps.changes = null) : keeps.tell()"
        >What changed</ElButton
      >
      <ElButton size="small" @click="keeps.end">Close</ElButton>
    </div>
    <ul v-if="keeps.changes" class="changes" aria-label="What changed">
      <li v-for="said in keeps.changes" :key="said">{{ said }}</li>
      <li v-if="!keeps.changes.length">Nothing is different.</li>
    </ul>
  </div>
</template>

<style scoped>
.pair {
  position: relative;
  height: 100%;
  min-height: 0;
}
.pair.side {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px;
}
.white {
  background: var(--paper);
}
.black {
  background: var(--night);
}
.over {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.line {
  position: absolute;
  z-index: 2;
  touch-action: none;
}
.line::before {
  position: absolute;
  content: "";
  background: var(--mark);
  box-shadow: 0 0 2px var(--night);
}
.line.upright {
  top: 0;
  bottom: 0;
  width: 24px;
  margin-left: -12px;
  cursor: ew-resize;
}
.line.upright::before {
  top: 0;
  bottom: 0;
  left: 11px;
  width: 2px;
}
.line:not(.upright) {
  left: 0;
  right: 0;
  height: 24px;
  margin-top: -12px;
  cursor: ns-resize;
}
.line:not(.upright)::before {
  left: 0;
  right: 0;
  top: 11px;
  height: 2px;
}
.whose {
  position: absolute;
  bottom: 6px;
  left: 8px;
  padding: 2px 8px;
  border-radius: 3px;
  background: var(--panel);
  pointer-events: none;
}
.whose.end {
  right: 8px;
  left: auto;
}
.bar {
  position: absolute;
  z-index: 4;
  top: 8px;
  left: 50%;
  gap: 6px;
  padding: 4px 6px;
  transform: translateX(-50%);
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--panel);
}
.bar :deep(.el-button + .el-button) {
  margin-left: 0;
}
.with {
  width: 150px;
}
.how {
  width: 150px;
}
.changes {
  position: absolute;
  z-index: 4;
  top: 50px;
  left: 50%;
  width: min(460px, 90%);
  max-height: 60%;
  margin: 0;
  padding: 8px 12px 8px 28px;
  overflow: auto;
  transform: translateX(-50%);
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--panel);
}
.scale {
  position: absolute;
  bottom: 6px;
  left: 50%;
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 2px 10px;
  transform: translateX(-50%);
  border-radius: 3px;
  background: var(--panel);
}
.wedge {
  width: 90px;
  height: 10px;
  background: linear-gradient(to right, black, rgb(128 128 128), white);
}
</style>
