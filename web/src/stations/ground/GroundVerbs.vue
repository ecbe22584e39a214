<script setup lang="ts">
/** What can be done at Ground: a start that is proposed, and the lines one reaches for by hand. */
import { ElButton } from "element-plus";
import { nextTick } from "vue";

import { useKeys } from "../../keys/keys";
import { useScene } from "../../stores/scene";
import { useStart } from "../../stores/start";
import { useView } from "../../stores/view";
import GlyphMark from "../../ui/GlyphMark.vue";

const scene = useScene();
const view = useView();
const begin = useStart();
interface Verb {
  words: string;
  glyph: string;
  line: string;
  tool: string;
  help: string;
}
const VERBS: Verb[] = [
  { words: "Level", glyph: "level", line: "trim", tool: "horizon", help: "Draw along what should be level" },
  { words: "Crop", glyph: "crop", line: "trim", tool: "", help: "Drag the frame's corners; choose a format" },
  {
    words: "Upright lines",
    glyph: "upright",
    line: "plumb",
    tool: "upright",
    help: "Draw along what should stand upright: the camera is turned, the picture follows",
  },
  {
    words: "Colour of light",
    glyph: "pick",
    line: "colour_of_light",
    tool: "neutral",
    help: "Point at something grey: the light is measured there",
  },
];
const held = (v: Verb) => scene.openMove === v.line && view.tool === v.tool;
/** Open its line, and take its tool in hand; again, put it down. */
function take(v: Verb): void {
  const again = held(v);
  view.tool = "";
  scene.openMove = again ? null : v.line;
  if (!again && v.tool) void nextTick(() => (view.tool = v.tool));
}
useKeys().add({
  name: "start",
  says: "at Ground: start for me",
  key: "s",
  run: () => void begin.start(),
});
</script>

<template>
  <div class="verbs-row" role="group" aria-label="What can be done">
    <ElButton
      size="small"
      :disabled="begin.starting"
      data-help="Proposes lens, level, light and noise, each with its reason; all of it can be changed"
      @click="begin.start"
      ><GlyphMark name="start" />&ensp;{{ begin.starting ? "Looking …" : "Start for me" }}</ElButton
    >
    <span class="rule" aria-hidden="true" />
    <ElButton
      v-for="v in VERBS"
      :key="v.words"
      size="small"
      :data-help="v.help"
      :aria-pressed="held(v)"
      @click="take(v)"
      ><GlyphMark :name="v.glyph" />&ensp;{{ v.words }}</ElButton
    >
    <span class="quiet says" role="status">{{
      begin.starting ? (begin.looks ? `at ${begin.looks}` : "at the frame") : begin.said
    }}</span>
  </div>
</template>

<style scoped>
.says {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
