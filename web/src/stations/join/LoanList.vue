<script setup lang="ts">
/** What second frames lend to this scene: each a line with its light and where it is let in. */
import { ElSwitch } from "element-plus";
import { computed } from "vue";

import type { SceneDocument } from "../../api/client";
import { dropUnused } from "../../model/sources";
import { useScene } from "../../stores/scene";
import { holders } from "../../stores/scene/latches";
import ChoiceBox from "../../ui/ChoiceBox.vue";
import GlyphMark from "../../ui/GlyphMark.vue";
import InlineNumber from "../../ui/InlineNumber.vue";

type Loan = SceneDocument["loans"][number];
const scene = useScene();
const loans = computed(() => (scene.document?.loans ?? []) as Loan[]);
const field = computed(() =>
  scene.vocabulary!.moves.find((k) => k.kind === "loan")!.fields.find((f) => f.name === "stops")!,
);
const nameOf = (loan: Loan) =>
  scene.opened?.sources.find((s) => s.id === loan.source)?.name ??
  scene.document?.sources.find((s) => s.id === loan.source)?.path ??
  "a frame";
function change(loan: Loan, stops: number): void {
  loan.params = { ...loan.params, stops };
  scene.touched();
}
function remove(loan: Loan): void {
  const document = scene.document!;
  document.loans = loans.value.filter((l) => l.id !== loan.id);
  // the latch that came with it goes with it, if nothing else holds on to it
  const own = document.latches.find((l) => l.id === loan.latch && l.name.startsWith("Lent by "));
  if (own && !holders(document, own.id!).length) {
    document.latches = document.latches.filter((l) => l.id !== own.id);
  }
  dropUnused(document, loan.source);
  void scene.commit(`Remove loan from ${nameOf(loan)}`);
}
</script>

<template>
  <section v-if="loans.length" aria-label="Loans">
    <h2>Loans</h2>
    <ul>
      <li v-for="loan in loans" :key="loan.id" :class="{ off: !loan.on }">
        <ElSwitch
          v-model="loan.on"
          size="small"
          :aria-label="`Loan from ${nameOf(loan)} on or off`"
          @change="scene.commit(`Switch loan from ${nameOf(loan)} ${loan.on ? 'on' : 'off'}`)"
        />
        <p>
          Loan from <b>{{ nameOf(loan) }}</b>,
          <InlineNumber
            :field="field"
            :value="loan.params?.stops ?? 0"
            :name="`Loan from ${nameOf(loan)}: Light`"
            @change="(v) => change(loan, v)"
            @commit="scene.commit('Change light of loan')"
          />, on
          <ChoiceBox
            :label="`What the loan from ${nameOf(loan)} is latched to`"
            :value="loan.latch ?? ''"
            :options="[
              { value: '', label: 'the whole picture' },
              ...scene.latches.map((l) => ({ value: l.id!, label: l.name })),
            ]"
            @choose="
              loan.latch = $event || null;
              scene.commit(`Latch loan from ${nameOf(loan)}`);
            "
          />
        </p>
        <button
          class="bare"
          type="button"
          :aria-label="`Remove the loan from ${nameOf(loan)}`"
          @click="remove(loan)"
        >
          <GlyphMark name="remove" />
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
section {
  padding: 4px 10px 8px;
  border-top: 1px solid var(--line);
}
h2 {
  font-weight: 600;
  padding: 4px 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  align-items: flex-start;
  gap: 7px;
  padding: 3px 0;
}
li p {
  flex: 1;
}
.off p {
  color: var(--dim);
}
</style>
