<script setup lang="ts">
/** One repair in words, with its place as a small picture; open, its few controls. */
import { ElSwitch } from "element-plus";
import { computed } from "vue";

import type { ParamField } from "../api/client";
import { readsAs, type AnyRepair } from "../model/repairs";
import { useMend } from "../stores/mend";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import InlineNumber from "./InlineNumber.vue";
import ParamControls from "./ParamControls.vue";
import PlacePicture from "./PlacePicture.vue";
import TypedLine from "./TypedLine.vue";

const props = defineProps<{ repair: AnyRepair; index: number }>();
const scene = useScene();
const view = useView();
const mend = useMend();
const line = computed(() => props.repair);
const kind = computed(() => scene.vocabulary?.moves.find((k) => k.kind === line.value.kind));
const said = computed(() => readsAs(line.value, kind.value));
const open = computed(() => scene.openMove === line.value.id);
const pasted = computed(() =>
  line.value.kind === "heal" || line.value.kind === "clone" ? line.value : null,
);
const TURN: ParamField = {
  name: "turn", kind: "number", label: "Turned", unit: "°", low: -180, high: 180, step: 1, decimals: 0, default: 0,
  signed: true, shown_times: 1, hint: "", automatic: "", bygone: false, words: {}, items: [],
}; // prettier-ignore
const SCALE: ParamField = {
  ...TURN,
  name: "scale",
  label: "Scaled",
  unit: "%",
  low: 0.25,
  high: 4,
  step: 0.02,
  default: 1,
  signed: false,
  shown_times: 100,
};

function toggle(): void {
  view.tool = "";
  scene.openMove = open.value ? null : line.value.id;
}
function named(name: string): void {
  line.value.name = name;
  void scene.commit(`${said.value} named`);
}
function take(what: "turn" | "scale", value: number): void {
  pasted.value!.take[what] = value;
  scene.touched();
}
function mirror(): void {
  pasted.value!.take.mirror = !pasted.value!.take.mirror;
  void scene.commit("Its source mirrored");
}
</script>

<template>
  <li
    class="line"
    :class="{ open, off: !line.on }"
    @pointerenter="mend.pointed = line.id"
    @pointerleave="mend.pointed = ''"
  >
    <div class="head">
      <ElSwitch
        v-model="line.on"
        size="small"
        :aria-label="`${said} on or off`"
        @change="scene.commit(`${said} ${line.on ? 'on' : 'off'}`)"
      />
      <PlacePicture :repair="line" />
      <p class="sentence" @click="toggle">
        <b>{{ said }}</b><template v-if="line.name">: {{ line.name }}</template>
      </p>
      <button
        class="plain"
        type="button"
        :aria-expanded="open"
        :aria-label="open ? `Close ${said}` : `Open ${said}`"
        @click="toggle"
      >
        {{ open ? "▾" : "▸" }}
      </button>
    </div>
    <div v-if="open" class="body">
      <ParamControls
        v-if="kind"
        :fields="kind.fields"
        :values="line.params"
        :scope="line.id"
        @commit="(label) => scene.commit(`${label} of ${said}`)"
      />
      <p v-if="pasted">
        Its source is turned
        <InlineNumber
          :field="TURN"
          :value="pasted.take.turn ?? 0"
          name="Its source turned"
          @change="(v) => take('turn', v)"
          @commit="scene.commit('Its source turned')"
        />, scaled
        <InlineNumber
          :field="SCALE"
          :value="pasted.take.scale ?? 1"
          name="Its source scaled"
          @change="(v) => take('scale', v)"
          @commit="scene.commit('Its source scaled')"
        />
        <label><input type="checkbox" :checked="pasted.take.mirror" @change="mirror" /> mirrored</label>
      </p>
      <p v-if="line.kind === 'specks'" class="quiet">
        With Speck in hand, point at a ringed one to leave it, or at another to add it.
      </p>
      <slot />
      <TypedLine
        class="boxed name"
        :value="line.name"
        maxlength="120"
        placeholder="What it was"
        :aria-label="`Name of ${said}`"
        @done="named"
      />
      <div class="acts">
        <button
          class="plain"
          type="button"
          :disabled="index === 0"
          aria-label="Move up"
          @click="mend.shift(line, -1)"
        >
          ↑
        </button>
        <button
          class="plain"
          type="button"
          :disabled="index === mend.repairs.length - 1"
          aria-label="Move down"
          @click="mend.shift(line, 1)"
        >
          ↓
        </button>
        <button class="plain" type="button" @click="mend.remove(line, said)">Take it out</button>
      </div>
    </div>
  </li>
</template>

<style scoped>
.line {
  border-top: 1px solid var(--line);
  padding: 3px 8px;
}
.line.open {
  background: var(--leaf);
  box-shadow: inset 3px 0 0 var(--accent);
}
.line.off .sentence {
  color: var(--dim);
}
.head {
  display: flex;
  align-items: center;
  gap: 7px;
  min-height: 36px;
}
.sentence {
  flex: 1;
  cursor: pointer;
}
.body {
  padding: 2px 0 6px 4px;
}
.name {
  width: 100%;
  margin: 4px 0;
}
.acts {
  display: flex;
  gap: 4px;
}
</style>
