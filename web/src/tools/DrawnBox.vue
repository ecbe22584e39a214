<script setup lang="ts">
/** The box that is being drawn. */
import { computed } from "vue";

import BoxShape from "../latches/BoxShape.vue";
import type { BoxTool } from "./kinds/boxing";

const props = defineProps<{ tool: BoxTool }>();
const box = computed(() => props.tool.box());
</script>

<template>
  <BoxShape v-if="box" v-bind="box" />
</template>
