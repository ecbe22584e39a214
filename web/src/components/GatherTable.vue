<script setup lang="ts">
/** Gather's table: frames in the order they were taken, those that belong together side by side. */
import { onBeforeUnmount, ref, watch } from "vue";

import { groupName, type Block, type Frame, type Group } from "../model/gather";
import FrameTile from "./FrameTile.vue";

defineProps<{
  table: Block[];
  chosen: string[];
  currentId: string;
  overview: boolean;
  empty: string;
  more: string;
}>();
const emit = defineEmits<{
  bring: [files: FileList | undefined];
  current: [id: string];
  look: [frame: Frame];
  choose: [id: string];
  all: [frames: Frame[]];
  begin: [frame: Frame];
  apart: [group: Group];
  join: [frames: Frame[], kind: string];
  rename: [what: "frame" | "scene", id: string, name: string];
  removeScene: [id: string];
  more: [];
}>();
const over = ref(false);
/** What was not sent with the outing is fetched as it comes into sight. */
const rest = ref<HTMLElement>();
const sight = new IntersectionObserver((seen) => seen.some((e) => e.isIntersecting) && emit("more"));
watch(rest, (now, before) => {
  if (before) sight.unobserve(before);
  if (now) sight.observe(now);
});
onBeforeUnmount(() => sight.disconnect());
function dropped(e: DragEvent): void {
  over.value = false;
  emit("bring", e.dataTransfer?.files);
}
</script>

<template>
  <div
    class="table"
    :class="{ over, overview }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="dropped"
  >
    <p v-if="empty" class="empty">{{ empty }}</p>
    <section
      v-for="block in table"
      :key="block.key"
      class="block"
      :class="{ group: block.group }"
      :aria-label="block.group ? groupName(block.group, block.frames.length) : undefined"
    >
      <header v-if="block.group">
        <h2>{{ groupName(block.group, block.frames.length) }}</h2>
        <span v-for="(s, n) in block.group.said" :key="n" class="quiet said" :title="s">{{ s }}</span>
        <button
          v-if="['sweep', 'bracket'].includes(block.group.kind) && block.frames.length > 1"
          class="plain strong"
          type="button"
          @click="emit('join', block.frames, block.group.kind)"
        >
          Join
        </button>
        <button class="plain" type="button" @click="emit('all', block.frames)">Side by side</button>
        <button class="plain" type="button" @click="emit('apart', block.group)">Take apart</button>
      </header>
      <div class="tiles">
        <FrameTile
          v-for="f in block.frames"
          :key="f.id"
          :frame="f"
          :chosen="chosen.includes(f.id)"
          :current="f.id === currentId"
          @focusin="emit('current', f.id)"
          @look="emit('look', f)"
          @choose="emit('choose', f.id)"
          @begin="emit('begin', f)"
          @rename="(what, id, name) => emit('rename', what, id, name)"
          @remove-scene="(id) => emit('removeScene', id)"
        />
      </div>
    </section>
    <p v-if="more" ref="rest" class="quiet">{{ more }}</p>
  </div>
</template>

<style scoped>
.table {
  flex: 1;
  overflow: auto;
  padding: 12px 14px;
  background: var(--leaf);
  display: flex;
  flex-wrap: wrap;
  align-content: flex-start;
  gap: 14px;
}
.table.over {
  outline: 3px solid var(--accent);
  outline-offset: -6px;
}
.table.overview {
  gap: 6px;
}
.table.overview :deep(.tile) {
  width: 122px;
}
.table.overview :deep(.look) {
  height: 96px;
  padding: 4px;
}
.table.overview :deep(.detail) {
  display: none;
}
.table.overview :deep(.heap) {
  top: 2px;
  right: 2px;
}
.table.overview .tiles {
  gap: 4px;
}
.table.overview .block.group {
  padding: 0 5px 2px;
}
.empty {
  width: 100%;
  padding: 60px 0;
  text-align: center;
  font-size: 15px;
}
.block.group {
  border: 1px solid var(--rule);
  background: var(--panel);
  padding: 4px 8px 6px;
}
.block > header {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 30px;
}
.block h2 {
  font-weight: 600;
}
.strong {
  font-weight: 600;
}
.said {
  max-width: 300px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.tiles {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
}
</style>
