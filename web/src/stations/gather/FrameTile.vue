<script setup lang="ts">
/** One frame on Gather's table: its picture, its name with how it was exposed, and what can be done with it. */
import { ElDropdownItem, ElDropdownMenu } from "element-plus";
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { exposure } from "../../model/facts";
import { clipped, HEAPS, type Frame, type Sorting } from "../../model/gather";
import GlyphMark from "../../ui/GlyphMark.vue";
import MenuBox from "../../ui/MenuBox.vue";

const props = defineProps<{
  frame: Frame;
  chosen: boolean;
  current: boolean;
  width: number;
  height: number;
}>();
const emit = defineEmits<{
  look: [];
  choose: [];
  begin: [];
  sort: [sorting: Sorting];
  removeScene: [id: string];
  rename: [what: "frame" | "scene", id: string, name: string];
}>();
const router = useRouter();
const heap = computed(() => HEAPS.find((h) => h.sorting === props.frame.sorting && h.sorting)?.label ?? "");
const short = computed(() => props.frame.name.replace(/\.[a-z0-9]+$/i, ""));
/** What can be done is drawn only where it is looked for: there may be a thousand frames. */
const near = ref(false);
const open = ref(false);
const facts = computed(() => `${exposure(props.frame.info)} · ${clipped(props.frame.info)}`);
const line = computed(() => {
  const lost = clipped(props.frame.info);
  return exposure(props.frame.info) + (lost.startsWith("clipped") ? ` · ${lost}` : "");
});
const scenes = computed(() => {
  const n = props.frame.scenes.length;
  return n ? `${n} ${n === 1 ? "scene" : "scenes"} · ` : "";
});
function left(e: FocusEvent): void {
  if (!(e.currentTarget as HTMLElement).contains(e.relatedTarget as Node)) near.value = false;
}
function act(what: string): void {
  const [verb, id = ""] = what.split(" ");
  const scene = props.frame.scenes.find((s) => s.id === id);
  if (verb === "rename") emit("rename", "frame", props.frame.id, props.frame.name);
  else if (verb === "sort") emit("sort", id as Sorting);
  else if (verb === "open") void router.push(`/light/${id}`);
  else if (verb === "call" && scene) emit("rename", "scene", scene.id, scene.name);
  else if (verb === "drop") emit("removeScene", id);
}
</script>

<template>
  <article
    class="tile"
    :class="{ chosen, current, leave: frame.sorting === 'leave' }"
    :style="{ width: `${width}px` }"
    @mouseenter="near = true"
    @mouseleave="near = open"
    @focusin="near = true"
    @focusout="left"
  >
    <button
      class="look"
      type="button"
      :style="{ height: `${height}px` }"
      :data-frame="frame.id"
      :tabindex="current ? 0 : -1"
      :aria-label="`Look at ${frame.name}`"
      :data-help="facts"
      @click="emit('look')"
    >
      <img :src="`/api/frames/${frame.id}/thumbnail`" :alt="frame.name" loading="lazy" />
    </button>
    <button
      class="choose"
      type="button"
      role="checkbox"
      :aria-checked="chosen"
      :tabindex="current ? 0 : -1"
      :aria-label="`Select ${frame.name}`"
      @click="emit('choose')"
    >
      <GlyphMark v-if="chosen" name="check" />
    </button>
    <span v-if="heap" class="heap">{{ heap }}</span>
    <p class="caption">
      <b>{{ short }}</b> <span class="quiet numeral">{{ scenes }}{{ line }}</span>
    </p>
    <div v-if="near || current" class="acts" :style="{ top: `${height - 36}px` }">
      <RouterLink
        v-if="frame.scenes.length"
        class="plain open"
        :to="`/light/${frame.scenes[frame.scenes.length - 1]!.id}`"
        :aria-label="`Open scene ${frame.scenes[frame.scenes.length - 1]!.name}`"
        >Open scene</RouterLink
      >
      <button
        class="plain"
        :class="{ open: !frame.scenes.length }"
        type="button"
        :aria-label="`New scene from ${frame.name}`"
        @click="emit('begin')"
      >
        New scene
      </button>
      <MenuBox @visible-change="(seen: boolean) => (open = seen)" @command="act">
        <button class="plain" type="button" :aria-label="`${frame.name}: more`">
          <GlyphMark name="more" />
        </button>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem v-for="h in HEAPS" :key="h.key" :command="`sort ${h.sorting}`"
              ><kbd>{{ h.key }}</kbd
              >{{ h.label }}</ElDropdownItem
            >
            <ElDropdownItem divided command="rename">Rename frame</ElDropdownItem>
            <template v-for="s in frame.scenes" :key="s.id">
              <ElDropdownItem divided :command="`open ${s.id}`">Open scene {{ s.name }}</ElDropdownItem>
              <ElDropdownItem :command="`call ${s.id}`">Rename scene {{ s.name }}</ElDropdownItem>
              <ElDropdownItem :command="`drop ${s.id}`">Remove scene {{ s.name }}</ElDropdownItem>
            </template>
          </ElDropdownMenu>
        </template>
      </MenuBox>
    </div>
  </article>
</template>

<style scoped>
.tile {
  position: relative;
  flex: none;
}
.look {
  display: block;
  width: 100%;
  padding: 0;
  border: 0;
  background: var(--panel-2);
  cursor: pointer;
}
.look img {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: cover;
}
.look:focus-visible {
  outline-color: var(--paper);
}
.tile.current .look {
  outline: 3px solid var(--paper);
  outline-offset: 0;
}
.tile.chosen .look {
  outline: 3px solid var(--accent);
  box-shadow: 0 0 0 5px var(--paper);
}
.tile.leave img {
  opacity: 0.35;
}
.choose {
  position: absolute;
  left: 6px;
  top: 6px;
  display: grid;
  place-items: center;
  width: 24px;
  height: 24px;
  padding: 0;
  border: 1px solid var(--ink-2);
  border-radius: 4px;
  background: rgb(251 251 251 / 85%);
  color: var(--paper);
  opacity: 0;
  cursor: pointer;
}
.tile:is(:hover, .current, .chosen) .choose,
.choose:focus-visible {
  opacity: 1;
}
.chosen .choose {
  background: var(--accent);
  border-color: var(--paper);
}
.heap {
  position: absolute;
  right: 6px;
  top: 6px;
  padding: 2px 8px;
  border-radius: 4px;
  background: var(--leaf);
  font-size: 12px;
  pointer-events: none;
}
.caption {
  overflow: hidden;
  font-size: 12px;
  line-height: 20px;
  color: var(--night);
  text-overflow: ellipsis;
  white-space: nowrap;
}
.caption b {
  font-weight: 600;
}
.caption .quiet {
  color: var(--night);
}
.acts {
  position: absolute;
  left: 6px;
  right: 6px;
  display: flex;
  gap: 6px;
  overflow: hidden;
  flex-wrap: wrap;
  height: 28px;
}
.acts .plain {
  text-decoration: none;
  color: var(--ink);
  padding: 3px 7px;
}
.acts .open {
  background: var(--accent);
  border-color: var(--accent);
  color: var(--paper);
  font-weight: 600;
}
</style>
