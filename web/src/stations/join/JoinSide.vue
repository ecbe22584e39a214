<script setup lang="ts">
/** Join's ledger: how the sweep is laid flat, how it is turned, its borders, and its frames. */
import { ElSwitch } from "element-plus";
import { computed } from "vue";

import BandsFolded from "../../components/BandsFolded.vue";
import GroundLine from "../../components/GroundLine.vue";
import { seamTint } from "../../model/seams";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";

const scene = useScene();
const view = useView();
const base = computed(() => (scene.document?.base?.kind === "sweep" ? scene.document.base : null));
const kinds = computed(() =>
  ["projection", "plumb"].map((name) => scene.groundKinds.find((k) => k.kind === name)!).filter(Boolean),
);
const taken = computed(() => base.value?.members.filter((m) => m.on).length ?? 0);
const frames = computed(() =>
  (base.value?.members ?? []).map((member, n) => ({
    n,
    member,
    source: scene.opened!.sources.find((s) => s.id === member.source),
  })),
);
const nameOf = (id: string) => scene.opened?.sources.find((s) => s.id === id)?.name ?? "";
const worst = computed(() => [...(base.value?.pairs ?? [])].sort((a, b) => b.residual - a.residual)[0]);
const ragged = computed(() => !!scene.ground("trim").params.empty);

function gainOf(stops: number): string {
  const size = Math.abs(stops).toFixed(2);
  return size === "0.00" ? "as it is" : `${stops > 0 ? "+" : "−"}${size} stops`;
}
function turn(n: number): void {
  const member = base.value!.members[n]!;
  member.on = !member.on;
  void scene.commit(`${nameOf(member.source)} ${member.on ? "taken in" : "left out"}`);
}
function border(empty: boolean): void {
  void scene.setGround("trim", { empty }, empty ? "Borders left ragged" : "Largest crop");
}
</script>

<template>
  <section class="ledger" aria-label="Join">
    <template v-if="base">
      <h2>
        Sweep of <b>{{ taken }}</b> frames
      </h2>
      <ul class="lines">
        <GroundLine v-for="k in kinds" :key="k.kind" :kind="k" />
      </ul>
      <div class="pad borders" role="group" aria-label="Borders">
        <span>Borders</span>
        <button
          class="plain"
          :class="{ on: !ragged }"
          type="button"
          :aria-pressed="!ragged"
          @click="border(false)"
        >
          largest crop
        </button>
        <button
          class="plain"
          :class="{ on: ragged }"
          type="button"
          :aria-pressed="ragged"
          @click="border(true)"
        >
          left ragged
        </button>
      </div>
      <h2>Its frames</h2>
      <ul class="frames">
        <li
          v-for="{ n, member, source } in frames"
          :key="member.source"
          :class="{ off: !member.on }"
          @pointerenter="view.member = n"
          @pointerleave="view.member = -1"
        >
          <img
            v-if="source?.frame"
            :src="`/api/frames/${source.frame}/thumbnail?long=160`"
            :alt="source.name"
            :style="{ borderColor: seamTint(n) }"
          />
          <div>
            <b>{{ source?.name }}</b>
            <p class="quiet">{{ gainOf(member.gain) }} · fits to {{ member.residual.toFixed(2) }} px</p>
          </div>
          <ElSwitch
            :model-value="member.on"
            size="small"
            :disabled="member.on && taken < 2"
            :aria-label="`${source?.name} in the sweep`"
            @change="turn(n)"
          />
        </li>
      </ul>
      <p v-if="worst" class="quiet pad">
        The worst pair is {{ nameOf(worst.a) }} and {{ nameOf(worst.b) }}, {{ worst.residual.toFixed(2) }} px.
      </p>
      <p v-for="l in base.left_out" :key="l.name" class="quiet pad">
        {{ l.name }} found no place: {{ l.why }}.
      </p>
    </template>
    <p v-else class="pad quiet">
      This scene is one frame. A sweep is joined at Gather: choose its frames there, then Join.
    </p>
    <BandsFolded at="Join" side="over" />
  </section>
</template>

<style scoped>
.ledger {
  flex: 1;
  overflow: auto;
}
h2 {
  padding: 8px 10px 4px;
  font-weight: 600;
}
.lines,
.frames {
  list-style: none;
  margin: 0;
  padding: 0;
}
.pad {
  padding: 6px 10px;
}
.borders {
  display: flex;
  align-items: center;
  gap: 6px;
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
}
.frames li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 10px;
}
.frames li > div {
  flex: 1;
  min-width: 0;
}
.frames img {
  width: 54px;
  height: 54px;
  object-fit: cover;
  border: 3px solid;
}
.off img {
  opacity: 0.4;
}
</style>
