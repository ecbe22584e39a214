<script setup lang="ts">
/** What preflight has found, worst first: each with its place, and one remedy. */
import { ElButton } from "element-plus";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import { useDrawer } from "../../stores/drawer";
import { useProof } from "../../stores/proof";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";

type Finding = Schemas["Finding"];
const proof = useProof();
const scene = useScene();
const view = useView();
const router = useRouter();

function show(one: Finding): void {
  if (one.x == null || one.y == null) return;
  view.centre = { x: one.x, y: one.y };
  view.zoom = 1;
  view.wrong = { x: one.x, y: one.y };
}
async function mend(one: Finding): Promise<void> {
  const { paper, station, line } = one.remedy!;
  if (paper && Object.keys(paper).length) return proof.set(paper, one.remedy!.words);
  if (one.remedy!.bits) return void (useDrawer().open = "export");
  if (!station) return;
  const at = one.x != null && one.y != null ? { x: one.x, y: one.y } : null;
  await router.push(`/${station.toLowerCase()}/${scene.opened!.id}`);
  if (line) scene.openMove = line;
  if (at) {
    view.centre = at;
    view.zoom = 1;
  }
}
</script>

<template>
  <h2>
    Preflight
    <span v-if="proof.flight" class="quiet"
      >{{ proof.flight.to_look_at.length || "nothing" }} to look at,
      {{ proof.flight.well.length }} well<template v-if="proof.stale">; out of date</template></span
    >
  </h2>
  <p v-if="!proof.flight" class="said">
    {{
      proof.checking
        ? "Looking at the whole picture at its own size …"
        : "Looks for what a print shows and a screen hides: press Preflight above the picture."
    }}
  </p>
  <ul v-else :class="{ old: proof.stale }">
    <li v-for="one in proof.flight.to_look_at" :key="one.what">
      <span class="dot" aria-hidden="true" />
      <p>
        {{ one.description }} <span v-if="one.more" class="quiet">{{ one.more }}</span>
      </p>
      <div class="acts">
        <ElButton
          v-if="one.x != null"
          size="small"
          :aria-label="`Show: ${one.description}`"
          @click="show(one)"
          >Show</ElButton
        >
        <ElButton v-if="one.remedy" size="small" @click="mend(one)">{{ one.remedy.words }}</ElButton>
      </div>
    </li>
    <li v-if="proof.flight.well.length" class="well">
      <span class="dot empty" aria-hidden="true" />
      <p class="quiet">{{ proof.flight.well.join(", ") }}.</p>
    </li>
    <li v-for="words in proof.flight.unknown" :key="words" class="well">
      <span class="dot empty" aria-hidden="true" />
      <p class="quiet">{{ words }}</p>
    </li>
  </ul>
</template>

<style scoped>
h2 .quiet {
  font-weight: 400;
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
}
ul.old {
  opacity: 0.75;
}
li {
  display: grid;
  grid-template-columns: 16px 1fr;
  gap: 2px 6px;
  padding: 7px 12px;
  border-top: 1px solid var(--line);
}
.dot {
  width: 8px;
  height: 8px;
  margin-top: 5px;
  border-radius: 50%;
  background: var(--accent);
}
.dot.empty {
  background: none;
  border: 1px solid var(--ink-3);
}
.quiet {
  font-size: 12px;
}
p .quiet {
  display: block;
}
.acts {
  grid-column: 2;
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.acts :deep(.el-button + .el-button) {
  margin-left: 0;
}
</style>
