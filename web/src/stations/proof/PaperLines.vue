<script setup lang="ts">
/** For this paper: lines of Light that leave the scene alone. */
import { ElButton, ElDropdownItem, ElDropdownMenu } from "element-plus";
import { computed } from "vue";

import type { Kind } from "../../api/client";
import BandLine from "../../scene/BandLine.vue";
import MaskPicture from "../../latches/MaskPicture.vue";
import ParamControls from "../../scene/ParamControls.vue";
import WhereLatched from "../../scene/WhereLatched.vue";
import { sentence, type Values } from "../../model/wording";
import { useProof } from "../../stores/proof";
import { useScene } from "../../stores/scene";
import MenuBox from "../../ui/MenuBox.vue";

/** What a paper asks for, the likeliest first. */
const OFFERED = ["exposure", "contrast", "vividness", "rungs", "relief"];
const proof = useProof();
const scene = useScene();
const kinds = computed(() =>
  OFFERED.map((kind) => scene.lightKinds.find((k) => k.kind === kind)).filter((k): k is Kind => !!k),
);
const kindOf = (kind: string) => scene.lightKinds.find((k) => k.kind === kind)!;
function add(kind: Kind): void {
  const line = scene.lineOf(kind, {});
  proof.paper!.moves.push(line);
  scene.openMove = line.id;
  void scene.commit(`${kind.label} for ${proof.paper!.name}`);
}
function remove(id: string, said: string): void {
  const paper = proof.paper!;
  paper.moves = paper.moves.filter((m) => m.id !== id);
  scene.openMove = null;
  void scene.commit(`Remove ${said} for ${paper.name}`);
}
function says(kind: Kind, params: unknown, latch: string | null): string {
  const on = scene.nameOf(latch);
  return sentence(kind, params as Values) + (on ? ` on ${on}` : "");
}
</script>

<template>
  <div class="head">
    <h2>For this paper</h2>
    <MenuBox @command="(kind: Kind) => add(kind)">
      <ElButton size="small">Add</ElButton>
      <template #dropdown>
        <ElDropdownMenu>
          <ElDropdownItem v-for="k in kinds" :key="k.kind" :command="k">{{ k.label }}</ElDropdownItem>
        </ElDropdownMenu>
      </template>
    </MenuBox>
  </div>
  <p v-if="!proof.paper!.moves.length" class="said">
    Lines here change the print on {{ proof.paper!.name }}, and leave the scene as it is.
  </p>
  <ul>
    <BandLine
      v-for="move in proof.paper!.moves"
      :key="move.id"
      :line="move as { id: string; on: boolean; name: string }"
      :said="says(kindOf(move.kind), move.params, move.latch)"
      hint="A name for it"
    >
      <template #picture><MaskPicture v-if="move.latch" :latch="move.latch" :size="40" /></template>
      <ParamControls
        :fields="kindOf(move.kind).fields"
        :values="move.params"
        :scope="move.id"
        @commit="(label) => scene.commit(`${kindOf(move.kind).label} for ${proof.paper!.name}: ${label}`)"
      />
      <WhereLatched :line="move" :said="kindOf(move.kind).label" :scope="move.id" />
      <template #acts>
        <button class="plain" type="button" @click="remove(move.id, kindOf(move.kind).label)">Remove</button>
      </template>
    </BandLine>
  </ul>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding-right: 12px;
}
.said {
  padding: 0 12px 10px;
  color: var(--ink-2);
  font-size: 12px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  border-bottom: 1px solid var(--line);
}
</style>
