<script setup lang="ts">
/** The head of a station: which scene, where on the path, what can be undone, and the state to come back to. */
import { ElButton } from "element-plus";
import { computed } from "vue";

import PathLine from "./PathLine.vue";
import UndoRow from "./UndoRow.vue";
import { STATIONS } from "../stations";
import { useKeeps } from "../stores/keeps";
import { useScene } from "../stores/scene";
import GlyphMark from "../ui/GlyphMark.vue";

defineProps<{ at: string; sceneId: string }>();
const scene = useScene();
const keeps = useKeeps();
const says = computed(() => Object.fromEntries(STATIONS.map((s) => [s.name, s.says?.()])));
</script>

<template>
  <header class="head">
    <h1>
      <RouterLink :to="scene.opened ? `/outing/${scene.opened.outing}` : '/'">{{
        scene.opened?.outing_name ?? "Outing"
      }}</RouterLink>
      <span class="slash">/ </span><b>{{ (!scene.coming && scene.opened?.name) || "…" }}</b>
    </h1>
    <PathLine :at="at" :scene-id="sceneId" :outing-id="scene.opened?.outing" :says="says" />
    <div class="right">
      <UndoRow />
      <span class="rule" aria-hidden="true" />
      <ElButton size="small" :disabled="!!scene.coming" aria-label="Keep this state" @click="keeps.keep()"
        ><GlyphMark name="keep" />&ensp;Keep</ElButton
      >
    </div>
  </header>
</template>

<style scoped>
.head {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto minmax(0, 1fr);
  align-items: center;
  flex: none;
  height: 44px;
  padding: 0 12px;
  border-bottom: 1px solid var(--line);
}
h1 {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--ink-2);
}
h1 a {
  color: var(--ink-2);
  text-decoration: none;
}
h1 a:hover {
  text-decoration: underline;
}
h1 b {
  font-size: 16px;
  font-weight: 600;
  color: var(--ink);
}
.right {
  display: flex;
  align-items: center;
  justify-content: flex-end;
  gap: 6px;
  min-width: 0;
}
.rule {
  width: 1px;
  height: 20px;
  background: var(--line);
}
@media (max-width: 1023px) {
  h1 a,
  .slash,
  .right :deep(.what) {
    display: none;
  }
}
</style>
