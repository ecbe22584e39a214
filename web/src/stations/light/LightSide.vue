<script setup lang="ts">
/** The ledger, or the opened latch instead. */
import { nextTick } from "vue";

import LatchEditor from "../../latches/LatchEditor.vue";
import LedgerPanel from "./LedgerPanel.vue";
import { useKeys } from "../../keys/keys";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";

const scene = useScene();
const view = useView();
useKeys().add(
  {
    name: "new move",
    says: "at Light: type an edit",
    key: "n",
    run() {
      scene.openLatch = null;
      void nextTick(() => document.getElementById("add-move")?.focus());
    },
  },
  {
    name: "wrong",
    says: "at Light: point at a problem",
    key: "p",
    run() {
      scene.openLatch = null;
      view.tool = "wrong";
    },
  },
);
</script>

<template>
  <LatchEditor v-if="scene.latch" />
  <LedgerPanel v-else />
</template>
