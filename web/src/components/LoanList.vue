<script setup lang="ts">
/** What second frames lend to this scene: each a line with its light and where it is let in. */
import { ElSwitch } from "element-plus";
import { computed, ref, watch } from "vue";

import { client, need, type Schemas } from "../api/client";
import { dropUnused } from "../model/sources";
import { useScene } from "../stores/scene";
import { holders } from "../stores/scene/latches";
import InlineNumber from "./InlineNumber.vue";

type Loan = Schemas["LoanLine"];
const scene = useScene();
const loans = computed(() => (scene.document?.loans ?? []) as Loan[]);
const field = computed(() =>
  scene.vocabulary!.moves.find((k) => k.kind === "loan")!.fields.find((f) => f.name === "stops")!,
);
const nameOf = (loan: Loan) =>
  scene.opened?.sources.find((s) => s.id === loan.source)?.name ??
  scene.document?.sources.find((s) => s.id === loan.source)?.path ??
  "a frame";
const offered = ref<Schemas["LenderOut"][] | null>(null);
const asking = ref(false);
const aligning = ref("");

/** Frames as they fit to lend: those that show the same first, those that cannot last. */
async function offer(): Promise<void> {
  asking.value = true;
  await scene.errand("lenders", async (at) => {
    try {
      const params = { path: { scene_id: at.scene } };
      const found = await need(client.GET("/api/scenes/{scene_id}/lenders", { params }));
      if (at.here()) offered.value = found;
    } finally {
      if (at.here()) asking.value = false;
    }
  });
}
async function lend(frame: Schemas["FrameLine"]): Promise<void> {
  aligning.value = frame.name;
  await scene.errand("loan", async (at) => {
    try {
      const made = await need(
        client.POST("/api/scenes/{scene_id}/loans", {
          params: { path: { scene_id: at.scene } },
          body: { document: at.now() as never, frame: frame.id },
        }),
      );
      if (at.open()) scene.notices.settle("loan");
      at.done((document) => {
        if (!document.sources.some((s) => s.id === made.source.id)) document.sources.push(made.source);
        document.latches.push(made.latch as never);
        (document.loans ??= []).push(made.loan);
      }, `Loan from ${frame.name}`);
      if (at.open()) offered.value = null;
    } catch (error) {
      scene.notices.tell("loan", at.open() ? error : `${at.name}: ${(error as Error).message}`);
    } finally {
      if (at.here()) aligning.value = "";
    }
  });
}
watch(
  () => scene.opened?.id,
  () => {
    aligning.value = "";
    asking.value = false;
    offered.value = null;
  },
);
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
  void scene.commit(`Loan from ${nameOf(loan)} removed`);
}
</script>

<template>
  <section aria-label="Loans">
    <h2>Loans</h2>
    <ul>
      <li v-for="loan in loans" :key="loan.id" :class="{ off: !loan.on }">
        <ElSwitch
          v-model="loan.on"
          size="small"
          :aria-label="`Loan from ${nameOf(loan)} on or off`"
          @change="scene.commit(`Loan from ${nameOf(loan)} ${loan.on ? 'on' : 'off'}`)"
        />
        <p>
          Loan from <b>{{ nameOf(loan) }}</b>,
          <InlineNumber
            :field="field"
            :value="loan.params?.stops ?? 0"
            :name="`Loan from ${nameOf(loan)}: Light`"
            @change="(v) => change(loan, v)"
            @commit="scene.commit('Light of a loan')"
          />, latched to
          <select
            class="boxed"
            :value="loan.latch ?? ''"
            :aria-label="`What the loan from ${nameOf(loan)} is latched to`"
            @change="
              loan.latch = ($event.target as HTMLSelectElement).value || null;
              scene.commit(`Loan from ${nameOf(loan)} latched`);
            "
          >
            <option value="">nothing: all of it</option>
            <option v-for="l in scene.latches" :key="l.id" :value="l.id">{{ l.name }}</option>
          </select>
        </p>
        <button
          class="plain"
          type="button"
          :aria-label="`Remove the loan from ${nameOf(loan)}`"
          @click="remove(loan)"
        >
          remove
        </button>
      </li>
    </ul>
    <p v-if="aligning" class="quiet pad" role="status">Aligning {{ aligning }} …</p>
    <p v-else-if="asking" class="quiet pad" role="status">Comparing frames …</p>
    <button
      v-else-if="!offered"
      class="plain"
      type="button"
      @click="offer().catch((e: Error) => scene.notices.tell('loan', e))"
    >
      Lend from another frame
    </button>
    <template v-else>
      <p class="quiet pad">Which frame lends?</p>
      <div class="frames">
        <button
          v-for="{ frame: f, said, lends } in offered"
          :key="f.id"
          class="plain"
          type="button"
          :disabled="!lends"
          @click="lend(f)"
        >
          <img :src="`/api/frames/${f.id}/thumbnail?long=160`" alt="" />
          {{ f.name }}
          <span class="quiet">{{ said }}</span>
        </button>
      </div>
      <button class="plain" type="button" @click="offered = null">None of them</button>
    </template>
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
.frames {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
  max-height: 300px;
  overflow: auto;
}
.frames .plain {
  font-size: 11px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.frames .quiet {
  display: block;
  white-space: normal;
}
.frames img {
  display: block;
  width: 100%;
  height: 56px;
  object-fit: cover;
}
</style>
