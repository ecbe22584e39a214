<script setup lang="ts">
/** One line of the Mend band: its switch, what it says, and, open, its controls and its name. */
import { ElSwitch } from "element-plus";
import { computed } from "vue";

import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import TypedLine from "../ui/TypedLine.vue";
import GlyphMark from "../ui/GlyphMark.vue";

const props = defineProps<{ line: { id: string; on: boolean; name: string }; said: string; hint: string }>();
const scene = useScene();
const view = useView();
const own = computed(() => props.line);
const open = computed(() => scene.openMove === props.line.id);

function toggle(): void {
  view.tool = "";
  scene.openMove = open.value ? null : props.line.id;
}
function named(name: string): void {
  own.value.name = name;
  void scene.commit(`Name ${props.said}`);
}
</script>

<template>
  <li class="line" :class="{ open, off: !own.on }">
    <div class="line-head">
      <ElSwitch
        v-model="own.on"
        size="small"
        :aria-label="`${said} on or off`"
        @change="scene.commit(`Switch ${said} ${own.on ? 'on' : 'off'}`)"
      />
      <slot name="picture" />
      <p class="sentence" @click="toggle">
        <b>{{ said }}</b><template v-if="own.name">: {{ own.name }}</template>
      </p>
      <button
        class="bare"
        type="button"
        :aria-expanded="open"
        :aria-label="open ? `Close ${said}` : `Open ${said}`"
        @click="toggle"
      >
        <GlyphMark :name="open ? 'down' : 'right'" />
      </button>
    </div>
    <div v-if="open" class="body">
      <slot />
      <TypedLine
        class="boxed name"
        :value="own.name"
        maxlength="120"
        :placeholder="hint"
        :aria-label="`Name of ${said}`"
        @done="named"
      />
      <div class="acts"><slot name="acts" /></div>
    </div>
  </li>
</template>

<style scoped>
.line-head {
  min-height: 36px;
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
  justify-content: space-between;
  gap: 6px;
  padding-top: 4px;
}
</style>
