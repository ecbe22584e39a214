<script setup lang="ts">
/** Gather's table: pictures in rows of equal height, in the order they were taken; a group is a bracket over its run, with what
 * it is good for. */
import { useElementSize } from "@vueuse/core";
import { ElDropdownItem, ElDropdownMenu } from "element-plus";
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";

import {
  goodFor,
  groupName,
  kindName,
  type Block,
  type Frame,
  type Group,
  type Sorting,
} from "../../model/gather";
import { ratio, rows } from "../../model/rows";
import GlyphMark from "../../ui/GlyphMark.vue";
import FrameTile from "./FrameTile.vue";
import MenuBox from "../../ui/MenuBox.vue";

const props = defineProps<{
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
  sort: [frame: Frame, sorting: Sorting];
  rename: [what: "frame" | "scene", id: string, name: string];
  removeScene: [id: string];
  more: [];
}>();
const GAP = 4;
/** Between two runs of a row. */
const APART = 12;
const over = ref(false);
const field = ref<HTMLElement>();
const { width } = useElementSize(field);
/** Rows that are drawn at first, and at a time. */
const FIRST = 16;
const MORE = 3;
/** How high a row is about, px: a wide window shows larger pictures, not more emptiness. */
const LOW = 200;
const OVERVIEW = 104;
const tall = computed(() => (props.overview ? OVERVIEW : Math.max(LOW, Math.round(width.value / 7))));
const laid = computed(() => rows(props.table, Math.max(LOW, width.value), tall.value, APART));
const whole = (group: Group) => props.table.find((b) => b.group?.id === group.id)?.frames ?? [];
/** What lies between the pictures of a run is part of its width. */
const wide = (frame: Frame, height: number, run: number) => {
  const spare = run > 1 ? ((APART - GAP) * (run - 1)) / run : 0;
  return Math.floor(ratio(frame) * height + spare);
};
/** The newest picture that was joined of a group, as long as it is called so. */
const joined = (group: Group) =>
  whole(group)
    .flatMap((f) => f.scenes)
    .findLast((s) => s.name.startsWith(kindName(group.kind)));
function act(what: string, group: Group): void {
  if (what === "compare") emit("all", whole(group));
  else emit("apart", group);
}
/** So many rows are drawn; more as the last of them comes near, so that no step of scrolling waits for a thousand pictures. */
const drawn = ref(FIRST);
const drawable = computed(() => laid.value.slice(0, drawn.value));
const outer = ref<HTMLElement>();
const rest = ref<HTMLElement>();
let sight: IntersectionObserver | undefined;
function onward(): void {
  if (drawn.value < laid.value.length) drawn.value += MORE;
  else if (props.more) emit("more");
}
onMounted(() => {
  const near = { root: outer.value, rootMargin: "1500px" };
  sight = new IntersectionObserver((seen) => seen.some((e) => e.isIntersecting) && onward(), near);
  if (rest.value) sight.observe(rest.value);
});
// looked at anew after every step: what stays in sight while rows are added is not told of again
watch([rest, drawn, () => laid.value.length], ([now], [before]) => {
  if (before) sight?.unobserve(before);
  if (now) sight?.observe(now);
}, { flush: "post" }); // prettier-ignore
/** What is come to by keys is there. */
watch(
  () => props.currentId,
  (id) => {
    const at = laid.value.findIndex((row) => row.runs.some((r) => r.frames.some((f) => f.id === id)));
    drawn.value = Math.max(drawn.value, at + MORE);
  },
  { immediate: true, flush: "sync" },
);
onBeforeUnmount(() => sight?.disconnect());
function dropped(e: DragEvent): void {
  over.value = false;
  emit("bring", e.dataTransfer?.files);
}
</script>

<template>
  <div
    ref="outer"
    class="outer"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="dropped"
  >
    <div ref="field" class="table">
      <div v-if="empty" class="empty">
        <p>{{ empty }}</p>
      </div>
      <div
        v-for="row in drawable"
        :key="row.key"
        v-memo="[row, chosen.join(), currentId]"
        class="row"
        :class="{ grouped: row.runs.some((r) => r.group) }"
        :style="{ 'contain-intrinsic-size': `auto ${row.height + 60}px` }"
      >
        <section
          v-for="run in row.runs"
          :key="run.key"
          class="run"
          :class="{ group: run.group }"
          :aria-label="
            run.group
              ? groupName(run.group, whole(run.group).length) + (run.begins ? '' : ', continued')
              : undefined
          "
        >
          <header v-if="run.group && run.begins">
            <h2 :data-help="run.group.reasons.join('; ')">
              {{ groupName(run.group, whole(run.group).length)
              }}<span>{{ goodFor(run.group, whole(run.group)) }}</span>
            </h2>
            <RouterLink v-if="joined(run.group)" class="plain strong" :to="`/join/${joined(run.group)!.id}`"
              >Open scene</RouterLink
            >
            <button
              v-if="['sweep', 'bracket'].includes(run.group.kind) && whole(run.group).length > 1"
              class="plain strong"
              type="button"
              @click="emit('join', whole(run.group), run.group.kind)"
            >
              Join
            </button>
            <MenuBox @command="(what: string) => act(what, run.group!)">
              <button
                class="plain"
                type="button"
                :aria-label="`${groupName(run.group, whole(run.group).length)}: more`"
              >
                <GlyphMark name="more" />
              </button>
              <template #dropdown>
                <ElDropdownMenu>
                  <ElDropdownItem command="compare">Compare</ElDropdownItem>
                  <ElDropdownItem command="apart">Ungroup</ElDropdownItem>
                </ElDropdownMenu>
              </template>
            </MenuBox>
          </header>
          <div class="tiles">
            <FrameTile
              v-for="f in run.frames"
              :key="f.id"
              :frame="f"
              :width="wide(f, row.height, run.frames.length)"
              :height="Math.floor(row.height)"
              :chosen="chosen.includes(f.id)"
              :current="f.id === currentId"
              @focusin="emit('current', f.id)"
              @look="emit('look', f)"
              @choose="emit('choose', f.id)"
              @begin="emit('begin', f)"
              @sort="(to) => emit('sort', f, to)"
              @rename="(what, id, name) => emit('rename', what, id, name)"
              @remove-scene="(id) => emit('removeScene', id)"
            />
          </div>
        </section>
      </div>
      <p v-if="more || drawn < laid.length" ref="rest" class="quiet">{{ more }}</p>
    </div>
  </div>
</template>

<style scoped>
.outer {
  flex: 1;
  overflow: auto;
  padding: 16px;
  background: var(--surround);
}
.outer.over {
  outline: 3px solid var(--accent);
  outline-offset: -6px;
}
.row {
  display: flex;
  align-items: flex-end;
  gap: 12px;
  padding-bottom: 14px;
  /* what is out of sight is not drawn */
  content-visibility: auto;
}
.run {
  min-width: 0;
}
.tiles {
  display: flex;
  gap: 4px;
}
.run > header {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 32px;
  margin-bottom: 5px;
  border-bottom: 2px solid var(--ink);
  padding-bottom: 3px;
}
h2 {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  font-size: 12px;
  font-weight: 600;
  color: var(--night);
  text-overflow: ellipsis;
  white-space: nowrap;
}
.run a.plain {
  color: var(--ink);
  text-decoration: none;
}
.run .plain {
  min-height: 24px;
  padding: 1px 9px;
}
.strong {
  font-weight: 600;
}
.empty {
  display: grid;
  place-items: center;
  min-height: 320px;
  text-align: center;
}
.empty p {
  max-width: 460px;
  padding: 20px 28px;
  border-radius: 4px;
  background: var(--panel);
  font-size: 16px;
}
.quiet {
  color: var(--night);
}
</style>
