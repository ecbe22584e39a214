<script setup lang="ts">
/** The frames of a join in a row below it, in the order they were taken: each edged in the tint its part has among the seams. */
import { vPoint } from "../../ui/point";
import { ElSwitch } from "element-plus";
import { computed } from "vue";

import { seamTint } from "../../model/seams";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";

const scene = useScene();
const view = useView();
const base = computed(() => {
  const held = scene.document?.base;
  return held && held.kind !== "frame" ? held : null;
});
const taken = computed(() => base.value?.members.filter((m) => m.on).length ?? 0);
const frames = computed(() =>
  (base.value?.members ?? [])
    .map((member, n) => ({
      n,
      member,
      source: scene.opened!.sources.find((s) => s.id === member.source),
      light: "ev" in member ? exposedBy(member.ev) : gainOf(member.gain ?? 0),
      exposures: "bracket" in member && member.bracket ? member.bracket.members.length : 1,
    }))
    .sort((a, b) => (a.source?.name ?? "").localeCompare(b.source?.name ?? "", "en", { numeric: true })),
);

function exposedBy(ev: number): string {
  const size = Math.abs(ev).toFixed(1);
  return size === "0.0" ? "same exposure" : `${ev > 0 ? "+" : "−"}${size} stops`;
}
function gainOf(stops: number): string {
  const size = Math.abs(stops).toFixed(2);
  return size === "0.00" ? "same exposure" : `${stops > 0 ? "+" : "−"}${size} stops`;
}
function turn(n: number, name: string): void {
  const member = base.value!.members[n]!;
  member.on = !member.on;
  void scene.commit(`${member.on ? "Take in" : "Leave out"} ${name}`);
}
/** Take a frame in hand, to be painted in. */
function frameHere(source: string): void {
  const again = view.tool === "this frame" && view.framing === source;
  view.framing = again ? "" : source;
  view.tool = again ? "" : "this frame";
}
</script>

<template>
  <ul v-if="base" class="frames" aria-label="Its frames">
    <li
      v-for="{ n, member, source, light, exposures } in frames"
      :key="member.source"
      v-point="(on) => (view.member = on ? n : -1)"
      :class="{ off: !member.on }"
    >
      <img
        v-if="source?.frame"
        :src="`/api/frames/${source.frame}/thumbnail?long=160`"
        :alt="source.name"
        :style="{ borderColor: seamTint(n) }"
      />
      <div class="of">
        <b>{{ source?.name }}</b>
        <p v-if="exposures > 1" class="quiet">and {{ exposures - 1 }} more exposures</p>
        <p class="quiet" data-help="Its exposure against the picture’s, and how far its matches lie off">
          {{ light }}<br />{{ (member.residual ?? 0).toFixed(2) }} px
        </p>
        <p class="acts">
          <ElSwitch
            :model-value="member.on"
            size="small"
            :disabled="member.on && taken < 2"
            :aria-label="`${source?.name} in the picture`"
            @change="turn(n, source?.name ?? '')"
          />
          <button
            v-if="member.on"
            class="plain here"
            type="button"
            data-help="Paint where this frame is to be seen"
            :aria-pressed="view.tool === 'this frame' && view.framing === member.source"
            :aria-label="`Paint ${source?.name} in`"
            @click="frameHere(member.source)"
          >
            Paint in
          </button>
        </p>
      </div>
    </li>
  </ul>
</template>

<style scoped>
.frames {
  display: flex;
  gap: 4px;
  margin: 0;
  padding: 8px 12px;
  overflow-x: auto;
  list-style: none;
  background: var(--panel);
  border-top: 1px solid var(--line);
}
.frames li {
  display: flex;
  flex: 0 0 156px;
  gap: 6px;
  align-items: center;
}
.frames img {
  width: 56px;
  height: 56px;
  object-fit: cover;
  border: 3px solid;
}
.acts {
  display: flex;
  align-items: center;
  gap: 4px;
}
.here {
  padding: 0 6px;
  font-size: 12px;
}
.here[aria-pressed="true"] {
  background: var(--accent-soft);
}
.off img {
  opacity: 0.4;
}
</style>
