<script setup lang="ts">
/** What can be done at Join: the sweep turned and straightened, a frame painted in, another one borrowed from. */
import { ElButton, ElDropdownItem, ElDropdownMenu } from "element-plus";
import { computed } from "vue";

import { useLoans } from "../../stores/loans";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import GlyphMark from "../../ui/GlyphMark.vue";
import MenuBox from "../../ui/MenuBox.vue";

const scene = useScene();
const view = useView();
const loans = useLoans();
const base = computed(() => scene.document?.base ?? null);
const sweep = computed(() => base.value?.kind === "sweep");
const joined = computed(() => !!base.value && base.value.kind !== "frame");
const members = computed(() => {
  const held = base.value;
  if (!held || held.kind === "frame") return [];
  return held.members
    .filter((m) => m.on)
    .map((m) => ({
      source: m.source,
      name: scene.opened?.sources.find((s) => s.id === m.source)?.name ?? "a frame",
    }));
});
function hold(tool: string): void {
  view.tool = view.tool === tool ? "" : tool;
}
function paint(source: string): void {
  view.framing = source;
  view.tool = "this frame";
}
</script>

<template>
  <div class="verbs-row" role="group" aria-label="What can be done">
    <template v-if="sweep">
      <ElButton
        size="small"
        data-help="Drag the picture to turn the whole sweep: up, down and sideways"
        :aria-pressed="view.tool === 'turn'"
        @click="hold('turn')"
        ><GlyphMark name="turn" />&ensp;Turn</ElButton
      >
      <ElButton
        size="small"
        data-help="Point along a horizon or a shore that should be straight"
        :aria-pressed="view.tool === 'bend'"
        @click="hold('bend')"
        ><GlyphMark name="straighten" />&ensp;Straighten a line</ElButton
      >
    </template>
    <MenuBox v-if="joined" @command="paint">
      <ElButton
        size="small"
        data-help="Choose a frame, then paint where it is to be seen"
        :class="{ on: view.tool === 'this frame' }"
        ><GlyphMark name="seams" />&ensp;Seams by hand&ensp;<GlyphMark name="down"
      /></ElButton>
      <template #dropdown>
        <ElDropdownMenu>
          <ElDropdownItem v-for="m in members" :key="m.source" :command="m.source"
            >Paint {{ m.name }} in</ElDropdownItem
          >
        </ElDropdownMenu>
      </template>
    </MenuBox>
    <ElButton
      size="small"
      data-help="Take a part from another frame: where this one clips, or something stood in the way"
      :disabled="loans.asking || !!loans.aligning"
      :aria-pressed="!!loans.offered"
      @click="loans.offered ? loans.close() : loans.offer()"
      ><GlyphMark name="loan" />&ensp;Borrow from another frame</ElButton
    >
    <span class="quiet" role="status">{{
      loans.aligning ? `Aligning ${loans.aligning} …` : loans.asking ? "Comparing frames …" : ""
    }}</span>
  </div>
</template>
