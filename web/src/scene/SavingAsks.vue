<script setup lang="ts">
/** What stands between what was done and its being saved: another window's work, or what one that is gone has left. */
import { computed } from "vue";

import { moment } from "../model/facts";
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
  return made ? moment(made) : "";
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
      This scene was also changed in another window. Which version should be current? Neither is deleted. The
      last step there:
      <strong>{{ theirWords }}</strong>. Both stay in its history.
    </p>
    <p>
      <button class="plain" type="button" :aria-pressed="scene.peeking" @click="scene.peek()">
        {{ scene.peeking ? "Show mine" : "Preview other version" }}
      </button>
      <button class="plain strong" type="button" @click="scene.decide('ours')">Keep mine</button>
      <button class="plain" type="button" @click="scene.decide('theirs')">Use the other</button>
    </p>
  </div>
  <div v-else-if="scene.left.length" class="asks" role="alertdialog" aria-label="Changes that were not saved">
    <p>
      Of {{ leftWhen }} this browser holds {{ scene.left.length === 1 ? "a change" : "changes" }} to this
      scene that never reached the server: <strong>{{ leftWords }}</strong>.
    </p>
    <p>
      <button class="plain strong" type="button" @click="scene.takeUp(true)">Restore</button>
      <button class="plain" type="button" @click="scene.takeUp(false)">Discard</button>
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
p:last-child {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}
.strong {
  font-weight: 600;
}
</style>
