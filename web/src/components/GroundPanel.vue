<script setup lang="ts">
/** Ground's ledger: each line once, in the order in which a photographer thinks; what is still open. */
import { computed, onMounted, ref, watch } from "vue";

import { client, type SceneDocument, type Schemas } from "../api/client";
import { proposed } from "../model/proposed";
import { useKeys } from "../keys/keys";
import { useScene } from "../stores/scene";
import BandsFolded from "./BandsFolded.vue";
import GroundLine from "./GroundLine.vue";

const scene = useScene();
const ORDER = [
  "lens", "plumb", "trim", "colour_of_light", "base_exposure", "rescue", "rendering", "ends", "noise", "crispness",
]; // prettier-ignore
/** What a join has seen to, frame by frame, when it was made. */
const SEEN_TO: Record<string, string[]> = { sweep: ["lens", "rescue"], bracket: ["rescue"] };
const kinds = computed(() =>
  scene.groundKinds
    .filter(
      (k) => ORDER.includes(k.kind) && !SEEN_TO[scene.document?.base?.kind ?? "frame"]?.includes(k.kind),
    )
    .sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind)),
);
const starting = ref(false);
const said = ref("");

/** What a proposal looks at, asked so often, ms. */
const FOLLOWED = 150;
const looks = ref("");
async function follow(): Promise<void> {
  if (!scene.opened) return;
  const params = { path: { scene_id: scene.opened.id } };
  const got = await client.GET("/api/scenes/{scene_id}/ground/propose", { params }).catch(() => null);
  if (got?.data?.at) looks.value = got.data.at;
}

async function start(): Promise<void> {
  if (starting.value) return;
  const before = scene.current() as unknown as SceneDocument;
  const id = scene.opened?.id;
  starting.value = true;
  said.value = looks.value = "";
  const watching = window.setInterval(() => void follow(), FOLLOWED);
  const got = await scene.find<Schemas["Proposed"]>("propose");
  window.clearInterval(watching);
  if (scene.opened?.id !== id) return;
  starting.value = false;
  if (!got) return;
  if (!got.said.length) {
    said.value = "Nothing to propose: what could be set is set already.";
    return;
  }
  proposed(before, got.document as SceneDocument, scene.document!);
  void scene.commit("Start for me");
}
watch(
  () => scene.opened?.id,
  () => {
    starting.value = false;
    said.value = "";
  },
);
let soon = 0;
watch(
  () => [scene.revision?.number, scene.opened?.id],
  () => {
    window.clearTimeout(soon);
    soon = window.setTimeout(() => void refresh(), 500);
  },
);
async function refresh(): Promise<void> {
  if (scene.dragging) return;
  scene.state = (await scene.find<Schemas["GroundState"]>("")) ?? scene.state;
}
onMounted(refresh);
useKeys().add({ name: "start", says: "at Ground: start for me", key: "s", run: () => void start() });
</script>

<template>
  <section class="ledger" aria-label="Ground">
    <div class="start">
      <button class="plain strong" type="button" :disabled="starting" @click="start">
        <kbd>s</kbd> {{ starting ? "Looking …" : "Start for me" }}
      </button>
      <span class="quiet" role="status">{{
        starting ? (looks ? `at ${looks}` : "at the frame") : "proposes, and says why"
      }}</span>
    </div>
    <p v-if="said" class="quiet pad" role="status">{{ said }}</p>
    <BandsFolded at="Ground" side="under" />
    <ul>
      <GroundLine v-for="k in kinds" :key="k.kind" :kind="k" />
    </ul>
    <div class="pad" role="status">
      <p v-if="scene.state && !scene.state.open.length" class="quiet">
        Nothing is open: flat, clean, honest.
      </p>
      <template v-else-if="scene.state">
        <p class="quiet">Still open</p>
        <p v-for="o in scene.state.open" :key="o">{{ o }}</p>
      </template>
    </div>
    <BandsFolded at="Ground" side="over" />
  </section>
</template>

<style scoped>
.ledger {
  flex: 1;
  overflow: auto;
}
.start {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 6px 8px;
}
.strong {
  font-weight: 600;
  border-color: var(--edge);
  white-space: nowrap;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  border-bottom: 1px solid var(--line);
}
.pad {
  padding: 6px 10px;
}
</style>
