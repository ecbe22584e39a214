<script setup lang="ts">
/** Proof's verbs: how the print is looked at, what is made of it, and what it is compared with. */
import { ElButton, ElButtonGroup, ElDropdownItem, ElDropdownMenu } from "element-plus";
import { computed } from "vue";

import { useKeeps, WAYS, type Way } from "../../stores/keeps";
import GlyphMark from "../../ui/GlyphMark.vue";
import { useProof, type Look } from "../../stores/proof";
import MenuBox from "../../ui/MenuBox.vue";

const proof = useProof();
const keeps = useKeeps();
const LOOKS: Record<Look, string> = { plain: "On the screen", look: "On paper", gamut: "Out of gamut" };
/** Without a paper the picture is the screen's. */
const shown = computed<Look>(() => (proof.paper?.profile ? proof.look : "plain"));
function see(look: Look): void {
  proof.look = look;
}
</script>

<template>
  <div class="verbs-row" role="toolbar" aria-label="Proof">
    <ElButtonGroup aria-label="How it is shown">
      <ElButton
        v-for="(label, key) in LOOKS"
        :key="key"
        size="small"
        :class="{ held: shown === key }"
        :aria-pressed="shown === key"
        :disabled="key !== 'plain' && !proof.paper?.profile"
        @click="see(key)"
        >{{ label }}</ElButton
      >
    </ElButtonGroup>
    <span class="rule" aria-hidden="true" />
    <ElButton
      size="small"
      :class="{ held: proof.strip }"
      :aria-pressed="proof.strip"
      @click="proof.strip = !proof.strip"
      >Test strip</ElButton
    >
    <ElButton size="small" :loading="proof.checking" @click="proof.preflight()">Preflight</ElButton>
    <ElButton
      size="small"
      :disabled="!proof.paper?.profile"
      @click="proof.toPress({ long_edge: 2400, strip: [] })"
      >Press</ElButton
    >
    <MenuBox class="compare" @command="(way: Way) => keeps.compare(keeps.with_, way)">
      <ElButton size="small" :class="{ held: keeps.way }">Compare&ensp;<GlyphMark name="down" /></ElButton>
      <template #dropdown>
        <ElDropdownMenu>
          <ElDropdownItem v-for="(label, key) in WAYS" :key="key" :command="key">{{ label }}</ElDropdownItem>
        </ElDropdownMenu>
      </template>
    </MenuBox>
  </div>
</template>

<style scoped>
.verbs-row :deep(.el-button-group) {
  display: flex;
  flex-shrink: 0;
}
.held {
  background: var(--accent-soft);
  border-color: var(--accent-line);
}
.compare {
  margin-left: auto;
}
</style>
