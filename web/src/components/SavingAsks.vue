<script setup lang="ts">
/** What stands between what was done and its being saved: another window's work, or what one that is gone has left. */
import { computed } from "vue";

import { useScene } from "../stores/scene";

const scene = useScene();
const theirWords = computed(() => scene.theirs?.undo ?? "the scene as it began");
const leftWords = computed(() => {
  const words = scene.left.map((e) => e.words);
  const last = words.slice(-3).join(", ");
  return words.length > 3 ? `${words.length - 3} more and ${last}` : last;
});
const leftWhen = computed(() => {
  const made = scene.left.at(-1)?.made;
  return made ? new Date(made).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" }) : "";
});
</script>

<template>
  <div
    v-if="scene.saving === 'conflict'"
    class="asks"
    role="alertdialog"
    aria-label="Two changes to one scene"
  >
    <p>
      This scene was saved elsewhere while you worked on it; the last step there:
      <strong>{{ theirWords }}</strong>. Both stay in its history.
    </p>
    <p>
      <button class="plain" type="button" :aria-pressed="scene.peeking" @click="scene.peek()">
        {{ scene.peeking ? "Show mine" : "Show the other" }}
      </button>
      <button class="plain strong" type="button" @click="scene.decide('ours')">Go on with mine</button>
      <button class="plain" type="button" @click="scene.decide('theirs')">Go on with the other</button>
    </p>
  </div>
  <div v-else-if="scene.left.length" class="asks" role="alertdialog" aria-label="Changes that were not saved">
    <p>
      Of {{ leftWhen }} this browser holds {{ scene.left.length === 1 ? "a change" : "changes" }} to this
      scene that never reached the studio: <strong>{{ leftWords }}</strong>.
    </p>
    <p>
      <button class="plain strong" type="button" @click="scene.takeUp(true)">Take up</button>
      <button class="plain" type="button" @click="scene.takeUp(false)">Let go</button>
    </p>
  </div>
</template>

<style scoped>
.asks {
  max-width: 460px;
  padding: 10px 14px;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.strong {
  font-weight: 600;
}
</style>
