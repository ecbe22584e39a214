<script setup lang="ts">
/** Gather's head: which outing, where on the path, and who is signed in. */
import { ElButton, ElDropdownItem, ElDropdownMenu } from "element-plus";
import { computed } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import PathLine from "../../scene/PathLine.vue";
import { useSession } from "../../stores/session";
import ChoiceBox from "../../ui/ChoiceBox.vue";
import GlyphMark from "../../ui/GlyphMark.vue";
import MenuBox from "../../ui/MenuBox.vue";

type Outing = Schemas["OutingOut"];
const props = defineProps<{ outing: Outing | null; outings: Outing[] }>();
const emit = defineEmits<{ go: [outing: string]; leave: [] }>();
const session = useSession();
const router = useRouter();
function act(what: string): void {
  if (what === "guide") void router.push("/guide");
  else emit("leave");
}
const several = computed(() => props.outings.length > 1);
const says = computed(() => {
  const n = props.outing?.count;
  return n === undefined ? "" : n === 1 ? "1 frame" : `${n} frames`;
});
</script>

<template>
  <header>
    <div class="which">
      <h1 :class="{ 'hidden-label': several }">{{ outing?.name ?? "Gather" }}</h1>
      <ChoiceBox
        v-if="several"
        label="Outing"
        wide="min(300px, 100%)"
        :value="outing?.id ?? ''"
        :options="outings.map((o) => ({ value: o.id, label: o.name }))"
        @choose="emit('go', $event)"
      />
    </div>
    <PathLine at="Gather" :says="{ Gather: says }" />
    <div class="own">
      <MenuBox @command="act">
        <ElButton size="small" text aria-label="Account"
          >{{ session.name || "Account" }}&ensp;<GlyphMark name="down"
        /></ElButton>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem command="guide">Guide: one evening</ElDropdownItem>
            <ElDropdownItem divided command="leave">Sign out</ElDropdownItem>
          </ElDropdownMenu>
        </template>
      </MenuBox>
    </div>
  </header>
</template>

<style scoped>
header {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto minmax(0, 1fr);
  align-items: center;
  height: 44px;
  flex: none;
  padding: 0 16px;
  border-bottom: 1px solid var(--line);
}
h1 {
  font-size: 16px;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.which {
  min-width: 0;
}
.own {
  display: flex;
  justify-content: flex-end;
}
</style>
