<script setup lang="ts">
/** The shelf at Light: masks large enough to be judged, to open, to see on the picture by pointing, to drop on a line; and what
 * a new latch can be made of. */
import { ElButton, ElDropdownItem, ElDropdownMenu, ElPopover } from "element-plus";
import { onMounted, ref } from "vue";

import type { Kind } from "../../api/client";
import MaskPicture from "../../latches/MaskPicture.vue";
import { useInHand } from "../../composables/inhand";
import { useHabits } from "../../stores/habits";
import { useScene } from "../../stores/scene";
import { holders } from "../../stores/scene/latches";
import { useView } from "../../stores/view";
import GlyphMark from "../../ui/GlyphMark.vue";
import { vPoint } from "../../ui/point";
import PickSheet from "../../ui/PickSheet.vue";
import HabitMenu from "./HabitMenu.vue";
import { GROUPS } from "./groups";
import MenuBox from "../../ui/MenuBox.vue";

const scene = useScene();
const view = useView();
const habits = useHabits();
const inHand = useInHand();
const choosing = ref(false);
onMounted(() => void habits.load());

const uses = (id: string) => {
  const n = holders(scene.document!, id).length;
  return n ? ` · ${n} ${n === 1 ? "use" : "uses"}` : "";
};
function make(kind: Kind): void {
  choosing.value = false;
  scene.addLatch(kind);
  void inHand.take(kind.kind);
}
/** A latch dropped on another: both in one. */
function dropped(e: DragEvent, on: string): void {
  const one = e.dataTransfer?.getData("text/latch");
  if (one) scene.joinLatches(one, on);
}
/** A latch dropped beside the others: a copy of it. */
function copied(e: DragEvent): void {
  const one = e.dataTransfer?.getData("text/latch");
  if (one) scene.copyLatch(one);
}
function lift(e: DragEvent, id: string): void {
  e.dataTransfer?.setData("text/latch", id);
}
/** All that a drop does, by a menu too. */
function act(what: string, id: string): void {
  if (what === "copy") scene.copyLatch(id);
  else if (what.startsWith("with ")) scene.joinLatches(what.slice(5), id);
  else scene.openLatch = id;
}
</script>

<template>
  <section class="shelf" aria-label="Latches">
    <ul @dragover.prevent @drop.prevent="copied">
      <li v-for="l in scene.latches" :key="l.id">
        <button
          v-point="(on) => (view.peek = on ? l.id : '')"
          class="tile"
          type="button"
          draggable="true"
          :class="{ on: scene.openLatch === l.id }"
          :aria-label="`Open latch ${l.name}`"
          data-help="Click to open; drag onto a line to latch it, onto another latch to combine both"
          @dragstart="lift($event, l.id)"
          @dragover.prevent
          @drop.prevent.stop="dropped($event, l.id)"
          @click="scene.openLatch = scene.openLatch === l.id ? null : l.id"
          @focus="view.peek = l.id"
          @blur="view.peek = ''"
        >
          <MaskPicture :latch="l.id" :size="96" />
        </button>
        <MenuBox placement="top" @command="(what: string) => act(what, l.id)">
          <button class="under" type="button" :aria-label="`${l.name}: more`">
            {{ l.name }}<span class="quiet">{{ uses(l.id) }}</span>
          </button>
          <template #dropdown>
            <ElDropdownMenu>
              <ElDropdownItem command="open">Open</ElDropdownItem>
              <ElDropdownItem command="copy">Duplicate</ElDropdownItem>
              <ElDropdownItem
                v-for="other in scene.latches.filter((o) => o.id !== l.id)"
                :key="other.id"
                :command="`with ${other.id}`"
                >Combine with {{ other.name }}</ElDropdownItem
              >
            </ElDropdownMenu>
          </template>
        </MenuBox>
      </li>
      <li>
        <ElPopover :visible="choosing" placement="top-start" width="auto" :persistent="false">
          <template #reference>
            <button
              class="tile new"
              type="button"
              aria-label="New latch"
              :aria-expanded="choosing"
              data-help="Hold a part of the picture: by light, colour, place, what it is, or by hand"
              @click="choosing = !choosing"
            >
              <GlyphMark name="add" />
            </button>
          </template>
          <PickSheet
            :kinds="scene.ingredientKinds"
            :order="GROUPS"
            asks="What should it take?"
            about="ingredients"
            @pick="make"
            @close="choosing = false"
          >
            <HabitMenu
              inline
              :habits="habits.ofLatches"
              @use="
                choosing = false;
                habits.use($event);
              "
            />
          </PickSheet>
        </ElPopover>
        <span class="under">New latch</span>
      </li>
      <li v-if="!scene.latches.length && !choosing" class="first">
        <p>Hold the sky first: then its light can be changed without the land’s.</p>
        <ElButton size="small" @click="make(scene.ingredientKinds.find((k) => k.kind === 'sky')!)"
          ><GlyphMark name="sky" />&ensp;Hold the sky</ElButton
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.shelf {
  flex: none;
  height: 104px;
  border-top: 1px solid var(--line);
  overflow: auto hidden;
}
ul {
  display: flex;
  gap: 10px;
  height: 100%;
  margin: 0;
  padding: 8px 12px;
  list-style: none;
}
li {
  flex: none;
  width: 100px;
}
.tile {
  display: grid;
  place-items: center;
  width: 100px;
  height: 66px;
  padding: 0;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--leaf);
  overflow: hidden;
  cursor: grab;
}
.tile.on {
  outline: 2px solid var(--accent);
  outline-offset: 1px;
}
.tile :deep(img) {
  width: 100%;
  height: 100%;
  object-fit: cover;
}
.new {
  border-style: dashed;
  color: var(--accent);
  cursor: pointer;
}
.under {
  display: block;
  width: 100px;
  min-height: 24px;
  padding: 0;
  border: 0;
  background: none;
  font-size: 12px;
  line-height: 22px;
  text-align: left;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
button.under {
  cursor: pointer;
}
button.under:hover {
  text-decoration: underline;
}
.first {
  width: auto;
  max-width: 340px;
  display: flex;
  flex-direction: column;
  gap: 6px;
  align-items: flex-start;
  justify-content: center;
}
</style>
