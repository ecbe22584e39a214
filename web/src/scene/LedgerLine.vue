<script setup lang="ts">
/** One move as a sentence; open, it shows its controls in place. */
import { ElDropdownItem, ElDropdownMenu, ElSwitch } from "element-plus";
import { computed, ref } from "vue";

import type { Kind, MoveLine } from "../api/client";
import { parts, shown, type Values } from "../model/wording";
import { useGroups } from "../stores/groups";
import { useHabits } from "../stores/habits";
import { useScene } from "../stores/scene";
import GlyphMark from "../ui/GlyphMark.vue";
import InlineNumber from "../ui/InlineNumber.vue";
import MaskPicture from "../latches/MaskPicture.vue";
import MoveTools from "./MoveTools.vue";
import ParamControls from "./ParamControls.vue";
import WhereLatched from "./WhereLatched.vue";
import TypedLine from "../ui/TypedLine.vue";
import MenuBox from "../ui/MenuBox.vue";

const props = defineProps<{ move: MoveLine; kind: Kind; index: number; count: number; remark?: string }>();
const scene = useScene();
const groups = useGroups();
const habits = useHabits();
const over = ref(false);
/** Its name and note are asked for, or there. */
const naming = ref(false);
function act(what: string): void {
  if (what === "up") shift(-1);
  else if (what === "down") shift(1);
  else if (what === "out") groups.out(props.move);
  else if (what === "group") groups.withAbove(props.index);
  else if (what === "habit") void habits.keepMoves([props.move.id], props.move.name || said.value);
  else naming.value = true;
}
/** The document's own line: a change to it is a change to the scene. */
const line = computed(() => props.move);
const open = computed(() => scene.openMove === props.move.id);
const values = computed<Values>(() => props.move.params);
const latchName = computed(() => scene.nameOf(props.move.latch));
const spared = computed(() =>
  (props.move.spare ?? []).map((s) => (s.what === "colour" ? "a colour" : s.what)),
);
const said = computed(() => `${props.kind.label}${latchName.value ? ` on ${latchName.value}` : ""}`);

function set(name: string, value: unknown): void {
  values.value[name] = value;
  scene.touched();
}
function drop(e: DragEvent): void {
  over.value = false;
  const id = e.dataTransfer?.getData("text/latch");
  if (!id) return;
  line.value.latch = id;
  void scene.commit(`Latch ${props.kind.label} to ${scene.nameOf(id)}`);
}
function shift(by: number): void {
  void scene.edit(`Move ${said.value} ${by < 0 ? "up" : "down"}`, ({ moves }) => {
    moves.splice(props.index + by, 0, ...moves.splice(props.index, 1));
  });
}
function say(what: "name" | "note", text: string): void {
  line.value[what] = text;
  void scene.commit(`${what === "name" ? "Name" : "Note on"} ${said.value}`);
}
function remove(): void {
  scene.document!.moves.splice(props.index, 1);
  scene.openMove = null;
  void groups.commit(`Remove ${said.value}`);
}
</script>

<template>
  <li
    class="line"
    :class="{ open, off: !move.on || groups.of(move)?.on === false, over, grouped: move.group }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="drop"
  >
    <div class="line-head">
      <ElSwitch
        v-model="(move as { on: boolean }).on"
        size="small"
        :aria-label="`${said} on or off`"
        @change="scene.commit(`Switch ${said} ${move.on ? 'on' : 'off'}`)"
      />
      <p class="sentence" :data-help="move.note || undefined" @click="scene.openMove = open ? null : move.id">
        <b v-if="move.name" class="own">{{ move.name }}: </b>
        <template v-for="(part, n) in parts(kind)" :key="n">
          <template v-if="'text' in part">{{ part.text }}</template>
          <template v-else-if="part.field.kind !== 'number'">{{
            shown(part.field, values[part.field.name])
          }}</template>
          <InlineNumber
            v-else
            :field="part.field"
            :value="values[part.field.name]"
            :name="`${said}: ${part.field.label}`"
            @change="(v) => set(part.field.name, v)"
            @commit="scene.commit(said)"
          />
        </template>
        <template v-if="move.strength !== 1"> at {{ Math.round((move.strength ?? 1) * 100) }} %</template>
        <template v-if="latchName">
          on <b>{{ latchName }}</b></template
        >
        <template v-if="spared.length"
          >, sparing <b>{{ spared.join(" and ") }}</b></template
        >
      </p>
      <MaskPicture v-if="move.latch" :latch="move.latch" :size="48" />
      <button
        class="bare fold"
        type="button"
        :aria-expanded="open"
        :aria-label="open ? `Close ${said}` : `Open ${said}`"
        @click="scene.openMove = open ? null : move.id"
      >
        <GlyphMark :name="open ? 'down' : 'right'" />
      </button>
    </div>
    <div v-if="open" class="body">
      <p v-if="remark" class="remark" role="status">{{ remark }}.</p>
      <MoveTools :move="move" :kind="kind" :said="said" />
      <ParamControls
        :fields="scene.vocabulary ? [scene.vocabulary.move_strength] : []"
        :values="move"
        :scope="`${move.id}-s`"
        @commit="scene.commit(`Strength of ${said}`)"
      />
      <WhereLatched :line="line" :said="kind.label" :scope="move.id" />
      <div class="acts">
        <button class="plain" type="button" @click="scene.copyMove(move.id)">Duplicate</button>
        <button class="plain" type="button" @click="remove">Remove</button>
        <MenuBox @command="act">
          <button class="plain" type="button" :aria-label="`${said}: more`"><GlyphMark name="more" /></button>
          <template #dropdown>
            <ElDropdownMenu>
              <ElDropdownItem command="up" :disabled="index === 0">Move up</ElDropdownItem>
              <ElDropdownItem command="down" :disabled="index === count - 1">Move down</ElDropdownItem>
              <ElDropdownItem v-if="move.group" command="out"
                >Take out of {{ groups.of(move)?.name }}</ElDropdownItem
              >
              <ElDropdownItem v-else-if="index > 0" command="group">Group with line above</ElDropdownItem>
              <ElDropdownItem command="name">Name and note</ElDropdownItem>
              <ElDropdownItem command="habit">Save as habit</ElDropdownItem>
            </ElDropdownMenu>
          </template>
        </MenuBox>
      </div>
      <template v-if="naming || move.name || move.note">
        <TypedLine
          class="boxed name"
          :value="move.name ?? ''"
          maxlength="120"
          placeholder="Name"
          :aria-label="`Name of ${said}`"
          @done="say('name', $event)"
        />
        <TypedLine
          class="boxed name"
          :value="move.note ?? ''"
          maxlength="2000"
          placeholder="Note: why it is there"
          :aria-label="`Note on ${said}`"
          @done="say('note', $event)"
        />
      </template>
    </div>
  </li>
</template>

<style scoped>
.line {
  padding-block: 5px;
}
.line.grouped {
  padding-left: 20px;
}
.line.over {
  background: var(--accent-soft);
}
.line-head {
  min-height: 42px;
}
.name {
  width: 100%;
  margin-top: 4px;
}
.remark {
  font-weight: 600;
}
.acts {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 6px;
  padding: 8px 0 4px;
}
</style>
