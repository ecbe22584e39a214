<script setup lang="ts">
/** One glyph in the family's stroke. It never stands alone at first meeting: the words beside it, or its button's name, say
 * what it is. */
import { computed } from "vue";

import { glyph } from "./glyphs";

const props = defineProps<{ name: string }>();
const found = computed(() => glyph(props.name));
</script>

<template>
  <svg
    v-if="typeof found === 'string'"
    class="glyph"
    viewBox="0 0 24 24"
    fill="none"
    stroke="currentColor"
    stroke-width="1.75"
    stroke-linecap="round"
    stroke-linejoin="round"
    aria-hidden="true"
  >
    <path :d="found" />
  </svg>
  <component :is="found" v-else-if="found" class="glyph" :stroke-width="1.75" aria-hidden="true" />
</template>
