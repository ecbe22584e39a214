<script setup lang="ts">
/** Frames about to be joined: what they would give, small and soon, and the work of it. */
import { onMounted, ref } from "vue";
import { useRouter } from "vue-router";

import { client, need, type Schemas } from "../../api/client";
import { useJob } from "../../composables/job";
import JobBar from "../../app/JobBar.vue";

const props = defineProps<{ outing: string; frames: string[]; kind: "sweep" | "bracket" }>();
const emit = defineEmits<{ away: []; made: [] }>();
const router = useRouter();
const found = ref<Schemas["PreviewOut"] | null>(null);
const problem = ref("");

const {
  job,
  problem: refused,
  running,
  start,
  cancel,
} = useJob((ended) => {
  if (ended.state !== "done" || !ended.scene) return;
  emit("made");
  void router.push(`/join/${ended.scene}`);
});
const body = () => ({
  params: { path: { outing_id: props.outing } },
  body: { frames: props.frames, kind: props.kind },
});
const join = () => void start(need(client.POST("/api/outings/{outing_id}/joins", body())));
onMounted(async () => {
  try {
    found.value = await need(client.POST("/api/outings/{outing_id}/joins/preview", body()));
  } catch (error) {
    problem.value = (error as Error).message;
  }
});
</script>

<template>
  <section class="join" aria-label="Join">
    <header>
      <h2>Join {{ frames.length }} frames to a {{ kind }}</h2>
      <button class="plain" type="button" @click="emit('away')">Dismiss</button>
    </header>
    <p v-if="problem || refused" class="problem" role="alert">{{ problem || refused }}</p>
    <p v-else-if="!found" class="quiet" role="status">Checking the fit …</p>
    <template v-if="found">
      <img :src="found.picture" :alt="`The ${kind}, small: ${found.order.join(', ')}`" />
      <p>
        {{ kind === "sweep" ? "From left to right" : "From dark to bright" }} {{ found.order.join(" · ") }}.
        {{ found.description }}
      </p>
      <ul v-if="found.left_out.length">
        <li v-for="l in found.left_out" :key="l.name">
          <b>{{ l.name }}</b> is left out: {{ l.why }}.
        </li>
      </ul>
      <button v-if="!running" class="plain strong" type="button" @click="join">Join them</button>
    </template>
    <JobBar v-if="job" :job="job" label="Join" @stop="cancel" />
  </section>
</template>

<style scoped>
.join {
  position: absolute;
  z-index: 6;
  top: 16px;
  left: 50%;
  width: min(940px, 94%);
  transform: translateX(-50%);
  background: var(--panel);
  border: 1px solid var(--edge);
  padding: 8px 14px 12px;
}
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
}
h2 {
  font-weight: 600;
}
img {
  display: block;
  width: 100%;
  /* what says so and the button stay in sight below it */
  max-height: calc(100vh - 330px);
  object-fit: contain;
  background: var(--surround);
  margin: 4px 0 8px;
}
ul {
  margin: 4px 0;
  padding-left: 18px;
}
.strong {
  font-weight: 600;
  border-color: var(--edge);
  margin-top: 6px;
}
</style>
