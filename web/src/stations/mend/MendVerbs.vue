<script setup lang="ts">
/** Mend's verbs, in one row above the picture they act on. */
import ToolRow from "../../components/ToolRow.vue";
import { useMend } from "../../stores/mend";

const mend = useMend();
const TAKE_OUT = [
  { tool: "speck", word: "Speck", hint: "Point at specks, one by one" },
  { tool: "heal", word: "Heal", hint: "Texture from elsewhere, light and colour from around" },
  { tool: "clone", word: "Clone", hint: "Another place as it is" },
  { tool: "wire", word: "Wire", hint: "A thin line, followed between places pointed at" },
  { tool: "regrow", word: "Regrow", hint: "Fill an outline from what surrounds it" },
];
const SHAPE = [
  { tool: "bend", word: "Straighten", hint: "Point along what should be a straight line" },
  { tool: "pin", word: "Pin", hint: "Hold a place, or carry it elsewhere" },
  { tool: "pull nearer", word: "Pull nearer", hint: "Outline a foreground; it grows toward its lower edge" },
  { tool: "nudge", word: "Nudge", hint: "Carry, swell, draw in, settle, put back, by brush" },
];
const LOOK = [{ tool: "hide", word: "Hide", hint: "Look at the picture without a thing" }];
</script>

<template>
  <div class="verbs">
    <button class="boxed find" type="button" @click="mend.findSpecks">
      Find specks<template v-if="mend.left">: {{ mend.left }}</template>
    </button>
    <ToolRow label="Take out" :tools="TAKE_OUT" />
    <ToolRow label="Shape" :tools="SHAPE" />
    <ToolRow label="Look" :tools="LOOK" />
  </div>
</template>

<style scoped>
.verbs {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 14px;
  min-height: 36px;
  padding: 0 10px;
  border-bottom: 1px solid var(--line);
}
.find {
  min-height: 26px;
  padding: 2px 8px;
}
</style>
