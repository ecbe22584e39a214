<script setup lang="ts">
/** Gather's foot: what is known of the frame one is at, what can be done with the selected ones, and the tray. */
import { ElButton, ElDropdownItem, ElDropdownMenu } from "element-plus";
import { computed } from "vue";

import TrayStone from "../../app/TrayStone.vue";
import { exposure } from "../../model/facts";
import { clipped, HEAPS, kindName, type Frame, type Sorting } from "../../model/gather";
import { useDrawer } from "../../stores/drawer";
import GlyphMark from "../../ui/GlyphMark.vue";
import MenuBox from "../../ui/MenuBox.vue";

export type Together = "sweep" | "bracket" | "twin" | "none";
const props = defineProps<{ frame: Frame | null; count: number }>();
const emit = defineEmits<{
  beside: [];
  join: [kind: "sweep" | "bracket"];
  together: [kind: Together];
  sort: [sorting: Sorting];
  rename: [];
  remove: [];
  release: [];
}>();
const drawer = useDrawer();
const KINDS: Together[] = ["sweep", "bracket", "twin"];
const facts = computed(() => {
  const { frame } = props;
  if (!frame) return "";
  const size = frame.info.developed_size as [number, number] | undefined;
  const px = size ? `${size[0]} × ${size[1]}` : "";
  return [frame.name, px, exposure(frame.info), clipped(frame.info)].filter(Boolean).join(" · ");
});
function group(what: string): void {
  emit("together", what as Together);
}
</script>

<template>
  <footer>
    <div v-if="count" class="acts" role="group" aria-label="Selected frames">
      <b class="numeral">{{ count === 1 ? "1 frame" : `${count} frames` }} selected</b>
      <ElButton size="small" :disabled="count < 2" @click="emit('beside')">Compare</ElButton>
      <ElButton size="small" :disabled="count < 2" @click="emit('join', 'sweep')"
        >Join as sweep (panorama)</ElButton
      >
      <ElButton size="small" :disabled="count < 2" @click="emit('join', 'bracket')">Join as bracket</ElButton>
      <MenuBox @command="group">
        <ElButton size="small" :disabled="count < 2">Group as&ensp;<GlyphMark name="down" /></ElButton>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem v-for="kind in KINDS" :key="kind" :command="kind">{{
              kindName(kind)
            }}</ElDropdownItem>
            <ElDropdownItem divided command="none">Ungroup</ElDropdownItem>
          </ElDropdownMenu>
        </template>
      </MenuBox>
      <ElButton size="small" @click="emit('remove')">Remove</ElButton>
      <ElButton size="small" @click="emit('release')">Clear selection</ElButton>
    </div>
    <template v-else>
      <p class="facts numeral">{{ facts }}</p>
      <div v-if="frame" class="acts">
        <MenuBox placement="top" @command="(to: Sorting) => emit('sort', to)">
          <ElButton size="small">Sort&ensp;<GlyphMark name="down" /></ElButton>
          <template #dropdown>
            <ElDropdownMenu>
              <ElDropdownItem v-for="h in HEAPS" :key="h.key" :command="h.sorting"
                ><kbd>{{ h.key }}</kbd
                >{{ h.label }}</ElDropdownItem
              >
            </ElDropdownMenu>
          </template>
        </MenuBox>
        <ElButton size="small" @click="emit('rename')">Rename</ElButton>
        <ElButton size="small" @click="emit('remove')">Remove</ElButton>
      </div>
    </template>
    <span class="rule" aria-hidden="true" />
    <button
      class="bare"
      type="button"
      aria-label="Shortcuts"
      data-help="All keys, and how to change them"
      :aria-pressed="drawer.open === 'keys'"
      @click="drawer.toggle('keys')"
    >
      <GlyphMark name="keys" />
    </button>
    <TrayStone />
  </footer>
</template>

<style scoped>
footer {
  display: flex;
  align-items: center;
  gap: 8px;
  flex: none;
  height: 40px;
  padding: 0 16px;
  border-top: 1px solid var(--line);
}
.facts {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  color: var(--ink-2);
  text-overflow: ellipsis;
  white-space: nowrap;
}
.acts {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
  overflow: auto hidden;
  white-space: nowrap;
}
.acts:first-child {
  flex: 1;
}
.rule {
  flex: none;
  width: 1px;
  height: 20px;
  background: var(--line);
}
</style>
