<script setup lang="ts">
/** What there is to use at Proof: kept states to compare with and go back to, and papers. */
import { ElButton, ElDropdownItem, ElDropdownMenu } from "element-plus";
import { ref } from "vue";

import { useKeeps, type Keep } from "../../stores/keeps";
import { useProof, type Paper } from "../../stores/proof";
import { useScene } from "../../stores/scene";
import TypedLine from "../../ui/TypedLine.vue";
import KeepPicture from "./KeepPicture.vue";
import MenuBox from "../../ui/MenuBox.vue";

const keeps = useKeeps();
const proof = useProof();
const scene = useScene();
const naming = ref("");
const chooser = ref<HTMLInputElement>();

function act(what: string, kept: Keep): void {
  if (what === "back") void scene.goBackTo(kept.id, kept.name);
  else if (what === "rename") naming.value = kept.id;
  else void keeps.remove(kept);
}
function named(kept: Keep, name: string): void {
  naming.value = "";
  void keeps.rename(kept, name);
}
function chosen(e: Event): void {
  const input = e.target as HTMLInputElement;
  const file = input.files?.[0];
  input.value = "";
  if (file) void proof.upload(file);
}
const inkOf = (paper: Paper) => ["", "grey", "", "RGB", "four inks"][paper.profile?.channels ?? 0] ?? "";
</script>

<template>
  <section class="shelf" aria-label="Keeps and papers">
    <ul class="keeps" aria-label="Keeps">
      <li v-for="k in keeps.keeps" :key="k.id">
        <button
          class="tile"
          type="button"
          :class="{ held: keeps.way && keeps.with_ === k.id }"
          :aria-pressed="!!keeps.way && keeps.with_ === k.id"
          draggable="true"
          :aria-label="`Compare with ${k.name}`"
          @dragstart="(e: DragEvent) => e.dataTransfer?.setData('text/keep', k.id)"
          @click="keeps.way && keeps.with_ === k.id ? keeps.end() : keeps.compare(k.id)"
        >
          <KeepPicture :number="k.number" :name="k.name" />
        </button>
        <TypedLine
          v-if="naming === k.id"
          class="boxed name"
          :value="k.name"
          maxlength="120"
          :aria-label="`Name of ${k.name}`"
          @done="named(k, $event)"
        />
        <MenuBox v-else @command="(what: string) => act(what, k)">
          <button class="bare under" type="button" :aria-label="`${k.name}: go back, rename, remove`">
            {{ k.name }}
          </button>
          <template #dropdown>
            <ElDropdownMenu>
              <ElDropdownItem command="back">Go back to it</ElDropdownItem>
              <ElDropdownItem command="rename">Rename</ElDropdownItem>
              <ElDropdownItem command="remove">Remove</ElDropdownItem>
            </ElDropdownMenu>
          </template>
        </MenuBox>
      </li>
      <li>
        <button class="tile new" type="button" aria-label="Keep this state" @click="keeps.keep()">+</button>
        <span class="under">Keep this state</span>
      </li>
    </ul>
    <p v-if="keeps.removed.length" role="status">
      {{ keeps.removed[0]!.name }} removed.
      <ElButton size="small" @click="keeps.putBack">Undo</ElButton>
    </p>
    <span class="rule" aria-hidden="true" />
    <ul class="papers" aria-label="Papers">
      <li v-for="p in proof.papers" :key="p.id">
        <button
          class="tile sheet"
          type="button"
          :class="{ held: proof.paper?.id === p.id }"
          :aria-pressed="proof.paper?.id === p.id"
          @click="proof.choose(proof.paper?.id === p.id ? null : p.id)"
        >
          {{ p.params.surface }}<br /><span class="quiet">{{ inkOf(p) }}</span>
        </button>
        <span class="under">{{ p.name }}</span>
      </li>
      <li>
        <MenuBox>
          <button class="tile new" type="button" aria-label="Add a paper">+</button>
          <template #dropdown>
            <ElDropdownMenu>
              <ElDropdownItem v-for="one in proof.press" :key="one.name" @click="proof.addFromPress(one)">{{
                one.label
              }}</ElDropdownItem>
              <ElDropdownItem divided @click="proof.add('Paper', null)"
                >A paper without a profile</ElDropdownItem
              >
              <ElDropdownItem @click="chooser?.click()">Add a profile …</ElDropdownItem>
            </ElDropdownMenu>
          </template>
        </MenuBox>
        <span class="under">Add a paper</span>
        <input
          ref="chooser"
          type="file"
          accept=".icc,.icm"
          class="hidden-label"
          aria-label="A profile"
          tabindex="-1"
          @change="chosen"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
.shelf {
  display: flex;
  align-items: flex-start;
  gap: 12px;
  padding: 8px 12px 4px;
  border-top: 1px solid var(--line);
  overflow-x: auto;
}
ul {
  display: flex;
  gap: 10px;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  width: 96px;
}
.tile {
  width: 96px;
  height: 64px;
  padding: 0;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--leaf);
  cursor: pointer;
  overflow: hidden;
  line-height: 1.2;
}
.tile.held {
  outline: 2px solid var(--accent);
  outline-offset: 1px;
}
.tile.new {
  border-style: dashed;
  color: var(--accent);
  font-size: 18px;
}
.under {
  max-width: 96px;
  min-height: 24px;
  padding: 3px 0 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 12px;
}
.name {
  width: 96px;
}
.rule {
  align-self: stretch;
  width: 1px;
  background: var(--line);
}
.quiet {
  font-size: 12px;
}
</style>
