<script setup lang="ts">
/** One repair in words, with its place as a small picture; open, its few controls. */
import { ElSwitch } from "element-plus";
import { computed } from "vue";

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
const turning = computed(() => (scene.vocabulary?.take ?? []).filter((f) => f.kind === "number"));

function toggle(): void {
  view.tool = "";
  scene.openMove = open.value ? null : line.value.id;
}
function named(name: string): void {
  line.value.name = name;
  void scene.commit(`${said.value} named`);
}
function take(what: string, value: number): void {
  Object.assign(pasted.value!.take, { [what]: value });
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
        Its source:
        <template v-for="f in turning" :key="f.name">
          {{ f.label.toLowerCase() }}
          <InlineNumber
            :field="f"
            :value="pasted.take[f.name as 'turn' | 'scale'] ?? f.default"
            :name="`Its source ${f.label.toLowerCase()}`"
            @change="(v) => take(f.name, v)"
            @commit="scene.commit(`Its source ${f.label.toLowerCase()}`)"
          />,
        </template>
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
