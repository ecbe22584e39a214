<script setup lang="ts">
/** Kinds in a menu: each with its glyph, its name, and what it does. */
import { ElDropdownItem, ElDropdownMenu } from "element-plus";

import type { Kind } from "../api/client";
import GlyphMark from "./GlyphMark.vue";

defineProps<{ kinds: Kind[] }>();
</script>

<template>
  <ElDropdownMenu>
    <ElDropdownItem v-for="k in kinds" :key="k.kind" :command="k" class="kind-item">
      <GlyphMark :name="k.kind" />
      <span
        ><b>{{ k.label }}</b
        ><br /><span class="quiet">{{ k.says }}</span></span
      >
    </ElDropdownItem>
  </ElDropdownMenu>
</template>
