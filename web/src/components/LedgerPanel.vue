<script setup lang="ts">
/** The ledger: Ground folded to sentences, the Light band's lines, and the line that adds. */
import { computed, ref } from "vue";

import type { Kind } from "../api/client";
import { sentence, typedMove, type Values } from "../model/wording";
import { useScene } from "../stores/scene";
import LedgerLine from "./LedgerLine.vue";

const scene = useScene();
const text = ref("");
const said = ref("");
/** Ground in one sentence: what of it differs from how a fresh scene stands. */
const folded = computed(() => {
  const said = scene.groundKinds
    .filter((kind) => scene.ground(kind.kind).on && differs(kind))
    .map((kind) => sentence(kind, scene.ground(kind.kind).params as Values));
  return said.length ? `${said.join(" · ")}.` : "As the frame came. Set it at Ground.";
});
function differs(kind: Kind): boolean {
  const params = scene.ground(kind.kind).params;
  return kind.fields.some(
    (f) =>
      JSON.stringify(params[f.name] ?? null) !==
      JSON.stringify(f.kind === "drawn" ? [] : (f.default ?? null)),
  );
}
const kindOf = (kind: string) => scene.lightKinds.find((k) => k.kind === kind)!;

function add(): void {
  const move = typedMove(text.value, scene.lightKinds, scene.latches);
  if (!move) {
    said.value = `Begin with a verb: ${scene.lightKinds.flatMap((k) => k.verbs ?? []).join(", ")}.`;
    return;
  }
  said.value = "";
  text.value = "";
  scene.addMove(move.kind, move.values, move.latch);
}
</script>

<template>
  <section class="ledger" aria-label="Ledger">
    <h2>Ground</h2>
    <p class="folded">
      <RouterLink :to="`/ground/${scene.opened?.id}`">{{ folded }}</RouterLink>
    </p>
    <h2>Light</h2>
    <ul>
      <LedgerLine
        v-for="(move, n) in scene.moves"
        :key="move.id"
        :move="move"
        :kind="kindOf(move.kind)"
        :index="n"
        :count="scene.moves.length"
      />
    </ul>
    <form class="add" @submit.prevent="add">
      <label class="hidden-label" for="add-move">Add a move</label>
      <input
        id="add-move"
        v-model="text"
        class="boxed"
        placeholder="Add a move: burn sky 0.9"
        autocomplete="off"
      />
      <div class="verbs">
        <button
          v-for="k in scene.lightKinds"
          :key="k.kind"
          class="plain"
          type="button"
          @click="scene.addMove(k)"
        >
          + {{ k.label }}
        </button>
      </div>
      <p v-if="said" class="problem" role="status">{{ said }}</p>
      <p v-else-if="!scene.moves.length" class="quiet">
        Hold the sky first: make a latch below, then write what its light should do.
      </p>
    </form>
  </section>
</template>

<style scoped>
.ledger {
  flex: 1;
  overflow: auto;
}
h2 {
  padding: 8px 10px 2px;
  font-weight: 600;
  color: var(--ink-2);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.folded {
  padding: 0 10px 8px;
}
.folded a {
  color: var(--ink);
}
.add {
  padding: 8px 10px 12px;
  border-top: 1px solid var(--line);
}
.add .boxed {
  width: 100%;
}
.verbs {
  display: flex;
  gap: 4px;
  padding: 4px 0;
}
</style>
