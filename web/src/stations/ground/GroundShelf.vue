<script setup lang="ts">
/** What is still to check at Ground, each a jump to its line. */
import { ElButton } from "element-plus";
import { computed } from "vue";

import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import GlyphMark from "../../ui/GlyphMark.vue";

const scene = useScene();
const view = useView();
const left = computed(() =>
  (scene.state?.open ?? []).map((said, n) => ({
    said: `${said[0]!.toUpperCase()}${said.slice(1)}`,
    line: scene.state!.about[n]!,
  })),
);
function open(line: string): void {
  view.tool = "";
  scene.openMove = line;
}
</script>

<template>
  <section class="shelf" aria-label="Still to check">
    <p v-if="!scene.state" class="quiet">Reading the frame …</p>
    <p v-else-if="!left.length" class="quiet"><GlyphMark name="check" /> Nothing left to check.</p>
    <template v-else>
      <span class="quiet">Still to check</span>
      <ElButton v-for="o in left" :key="o.said" size="small" @click="open(o.line)">{{ o.said }}</ElButton>
    </template>
  </section>
</template>

<style scoped>
.shelf {
  display: flex;
  align-items: center;
  gap: 8px;
  flex: none;
  min-height: 44px;
  padding: 0 12px;
  border-top: 1px solid var(--line);
  overflow: auto hidden;
  white-space: nowrap;
}
p {
  display: flex;
  align-items: center;
  gap: 8px;
}
</style>
