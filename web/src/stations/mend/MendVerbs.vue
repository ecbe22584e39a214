<script setup lang="ts">
/** Mend's verbs, in one row above the picture they act on. */
import ToolRow from "../../components/ToolRow.vue";
import { useMend } from "../../stores/mend";
import { LOOK, SHAPE, TAKE_OUT } from "./verbs";

const mend = useMend();
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
