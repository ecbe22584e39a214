<script setup lang="ts">
/** The shelf: small mask pictures, to open, to see large by pointing, to drop on a move. */
import { onMounted } from "vue";

import { useHabits } from "../stores/habits";
import { useScene } from "../stores/scene";
import HabitRow from "./HabitRow.vue";
import MaskPicture from "./MaskPicture.vue";

const scene = useScene();
const habits = useHabits();
onMounted(() => void habits.load());
const emit = defineEmits<{ peek: [latch: string] }>();

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
</script>

<template>
  <section class="shelf" aria-label="Latches">
    <h2>Latches</h2>
    <ul>
      <li v-for="l in scene.latches" :key="l.id">
        <button
          class="tile"
          type="button"
          draggable="true"
          :aria-label="`Open latch ${l.name}`"
          @dragstart="lift($event, l.id)"
          @dragover.prevent
          @drop.prevent="dropped($event, l.id)"
          @click="scene.openLatch = l.id"
          @mouseenter="emit('peek', l.id)"
          @mouseleave="emit('peek', '')"
          @focus="emit('peek', l.id)"
          @blur="emit('peek', '')"
        >
          <MaskPicture :latch="l.id" :size="76" />
          <span>{{ l.name }}</span>
        </button>
      </li>
    </ul>
    <div class="new" @dragover.prevent @drop.prevent="copied">
      <span class="quiet">New latch from</span>
      <button
        v-for="k in scene.ingredientKinds"
        :key="k.kind"
        class="plain"
        type="button"
        @click="scene.addLatch(k)"
      >
        + {{ k.label }}
      </button>
    </div>
    <HabitRow :habits="habits.ofLatches" @use="habits.use" />
  </section>
</template>

<style scoped>
.shelf {
  border-top: 1px solid var(--rule);
  padding: 6px 10px 8px;
  max-height: 272px;
  overflow: auto;
}
h2 {
  font-weight: 600;
  color: var(--ink-2);
}
ul {
  list-style: none;
  margin: 4px 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.tile {
  border: 1px solid var(--rule);
  background: var(--leaf);
  border-radius: 3px;
  padding: 4px;
  width: 86px;
  cursor: grab;
  text-align: left;
}
.tile span {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.new {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px;
}
</style>
