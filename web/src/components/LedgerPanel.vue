<script setup lang="ts">
/** The ledger: Ground folded to sentences, the Light band's lines, and the line that adds. */
import { computed, ref } from "vue";

import { sentence, typedMove, type Values } from "../model/wording";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import LedgerLine from "./LedgerLine.vue";
import ParamControls from "./ParamControls.vue";

const scene = useScene();
const view = useView();
const text = ref("");
const said = ref("");
const ground = computed(() =>
  scene.groundKinds.map((kind) => ({
    kind,
    values: (scene.document?.ground as unknown as Record<string, { params: Values }>)[kind.kind]!.params,
  })),
);
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
    <ul>
      <li
        v-for="g in ground"
        :key="g.kind.kind"
        class="ground"
        :class="{ open: scene.openMove === g.kind.kind }"
      >
        <button
          class="plain sentence"
          type="button"
          :aria-expanded="scene.openMove === g.kind.kind"
          @click="scene.openMove = scene.openMove === g.kind.kind ? null : g.kind.kind"
        >
          {{ sentence(g.kind, g.values) }}
        </button>
        <div v-if="scene.openMove === g.kind.kind" class="body">
          <ParamControls
            :fields="g.kind.fields"
            :values="g.values"
            :scope="g.kind.kind"
            @commit="(label) => scene.commit(label)"
          />
          <button
            v-if="g.kind.kind === 'colour_of_light'"
            class="plain"
            :class="{ on: view.pointing === 'neutral' }"
            type="button"
            @click="view.pointing = view.pointing ? '' : 'neutral'"
          >
            Point at something neutral
          </button>
        </div>
      </li>
    </ul>
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
.ground.open {
  background: #f7f7f7;
  box-shadow: inset 3px 0 0 var(--accent);
}
.ground .sentence {
  width: 100%;
  text-align: left;
  padding: 3px 10px;
}
.body {
  padding: 0 10px 8px;
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
