<script setup lang="ts">
/** One frame on Gather's table: its picture, how it was exposed, where it was put. */
import { computed } from "vue";

import { exposure } from "../model/facts";
import { clipped, HEAPS, type Frame } from "../model/gather";

const props = defineProps<{ frame: Frame; chosen: boolean; current: boolean }>();
defineEmits<{
  look: [];
  choose: [];
  begin: [];
  removeScene: [id: string];
  rename: [what: "frame" | "scene", id: string, name: string];
}>();
const heap = computed(() => HEAPS.find((h) => h.sorting === props.frame.sorting && h.sorting)?.label ?? "");
</script>

<template>
  <article class="tile" :class="{ chosen, current, leave: frame.sorting === 'leave' }">
    <button
      class="look"
      type="button"
      :data-frame="frame.id"
      :tabindex="current ? 0 : -1"
      :aria-label="`Look at ${frame.name}`"
      @click="$emit('look')"
    >
      <img :src="`/api/frames/${frame.id}/thumbnail`" :alt="frame.name" loading="lazy" />
    </button>
    <label class="choose"
      ><input
        type="checkbox"
        :checked="chosen"
        :aria-label="`Choose ${frame.name}`"
        @change="$emit('choose')"
      />
      <b>{{ frame.name }}</b></label
    >
    <button
      class="plain small name"
      type="button"
      :aria-label="`Rename ${frame.name}`"
      title="Give it another name"
      @click="$emit('rename', 'frame', frame.id, frame.name)"
    >
      ✎
    </button>
    <span v-if="heap" class="heap">{{ heap }}</span>
    <p class="quiet numeral detail">{{ exposure(frame.info) }}</p>
    <p class="quiet numeral detail">{{ clipped(frame.info) }}</p>
    <p class="scenes detail">
      <span v-for="s in frame.scenes" :key="s.id" class="scene">
        <RouterLink :to="`/light/${s.id}`">{{ s.name }}</RouterLink>
        <button
          class="plain small"
          type="button"
          :aria-label="`Rename scene ${s.name}`"
          title="Give this scene another name"
          @click="$emit('rename', 'scene', s.id, s.name)"
        >
          ✎
        </button>
        <button
          class="plain small"
          type="button"
          :aria-label="`Remove scene ${s.name}`"
          title="Remove this scene; it can be taken back"
          @click="$emit('removeScene', s.id)"
        >
          ✕
        </button>
      </span>
      <button
        class="plain"
        type="button"
        :aria-label="`Make a scene from ${frame.name}`"
        @click="$emit('begin')"
      >
        Make a scene
      </button>
    </p>
  </article>
</template>

<style scoped>
.scene {
  display: inline-flex;
  align-items: baseline;
}
.small {
  min-width: 24px;
  padding: 0 4px;
  opacity: 0;
}
.small.name {
  position: absolute;
  right: 0;
  top: 152px;
}
.tile:hover .small.name,
.scene:hover .small,
.small:focus-visible {
  opacity: 1;
}
.tile {
  width: 214px;
  position: relative;
  /* what is out of sight is not drawn */
  content-visibility: auto;
  contain-intrinsic-size: 214px 250px;
}
.look {
  display: block;
  width: 100%;
  height: 150px;
  background: var(--surround);
  border: 2px solid transparent;
  padding: 7px;
  cursor: pointer;
}
.look img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.tile.current .look {
  border-color: var(--ink-2);
}
.tile.chosen .look {
  border-color: var(--accent);
}
.tile.leave img {
  opacity: 0.35;
}
.choose {
  display: flex;
  align-items: center;
  gap: 5px;
  min-height: 26px;
  overflow: hidden;
}
.choose b {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.heap {
  position: absolute;
  right: 4px;
  top: 4px;
  padding: 0 6px;
  border: 1px solid var(--edge-2);
  border-radius: 3px;
  background: var(--leaf);
}
.quiet {
  font-size: 12px;
}
.scenes {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.scenes a {
  color: var(--accent);
}
.scenes .plain {
  padding-left: 0;
}
</style>
