<script setup lang="ts">
/** The test strip as it will come out of the press; the winner is clicked, and the scene takes it. */
import { ElButton, ElInput, ElOption, ElSelect } from "element-plus";
import { computed, onBeforeUnmount, ref, watch } from "vue";

import { ask, post, Refusal, type SceneDocument } from "../../api/client";
import { useAsked } from "../../composables/asked";
import { nextNumber, windowId } from "../../stores/pictures";
import { useProof } from "../../stores/proof";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";

/** The share of the picture's sides that a piece has. */
const PART = 0.3;
interface Piece {
  at: [number, number, number, number];
  steps: number[];
  label: string;
}
interface Made {
  url: string;
  size: [number, number];
  pieces: Piece[];
}
const proof = useProof();
const scene = useScene();
const view = useView();
const NAMED: Record<string, { label: string; steps: string }> = {
  exposure: { label: "Exposure, stops", steps: "-0.5, -0.25, 0, 0.25, 0.5" },
  contrast: { label: "Contrast, %", steps: "-20, -10, 0, 10, 20" },
  warmth: { label: "Colour of light, K", steps: "-600, -300, 0, 300, 600" },
  sharpness: { label: "Output sharpness, %", steps: "-100, -50, 0, 50, 100" },
};
/** Every number of a line of Light. */
const others = computed(() =>
  scene.moves.flatMap((m, n) => {
    const kind = scene.lightKinds.find((k) => k.kind === m.kind);
    const numbers = (kind?.fields ?? []).filter((f) => f.kind === "number");
    return numbers.map((f) => ({
      value: `${n + 1}.${f.name}`,
      label: `${m.name || kind!.label}: ${f.label}${f.unit ? `, ${f.unit}` : ""}`,
      step: (f.step ?? 0.1) * 5,
      times: f.shown_times ?? 1,
    }));
  }),
);
const of = ref("exposure");
const steps = ref(NAMED.exposure!.steps);
const second = ref("");
const secondSteps = ref("");
const problem = ref("");

function stepsFor(what: string): string {
  if (!what) return "";
  const named = NAMED[what];
  if (named) return named.steps;
  const other = others.value.find((o) => o.value === what);
  const by = (other?.step ?? 0.1) * (other?.times ?? 1);
  return [-2, -1, 0, 1, 2].map((n) => Number((n * by).toFixed(3))).join(", ");
}
watch(of, (what) => (steps.value = stepsFor(what)));
watch(second, (what) => (secondSteps.value = stepsFor(what)));
function read(text: string, what: string): number[] {
  const times = others.value.find((o) => o.value === what)?.times ?? 1;
  const all = text.replaceAll("−", "-").split(/[,;]\s*|\s+/).filter(Boolean).map(Number); // prettier-ignore
  if (!all.length || all.some((v) => !Number.isFinite(v)))
    throw new Refusal(`“${text}” is not a row of numbers.`, -1);
  return all.map((v) => v / times);
}
const settings = () => [
  { of: of.value, steps: read(steps.value, of.value) },
  ...(second.value ? [{ of: second.value, steps: read(secondSteps.value, second.value) }] : []),
];

/** Where one has zoomed in that piece is taken, else the most telling one. */
function piece(): number[] | null {
  if (!view.zoom) return null;
  const { x, y } = view.centre;
  const at = (v: number) => Math.min(1 - PART, Math.max(0, v - PART / 2));
  return [at(x), at(y), at(x) + PART, at(y) + PART];
}
/** Px of a piece: all of them side by side fill the room. */
const wide = () => Math.round(Math.min(420, Math.max(100, 770 / settings()[0]!.steps.length - 8)));

/** Rises when other steps were typed. */
const typed = ref(0);
async function render(stop: AbortSignal): Promise<Made | null> {
  const body = {
    document: scene.current(), settings: settings(), wide: wide(), piece: piece(), view: `${windowId}/strip`, number: nextNumber(),
  }; // prettier-ignore
  const response = await post(`/api/scenes/${scene.opened!.id}/strip`, body, stop);
  if (response.status === 204) return null;
  const told = JSON.parse(response.headers.get("X-Strip")!) as Omit<Made, "url">;
  return { ...told, url: URL.createObjectURL(await response.blob()) };
}
const {
  value: made,
  pending: busy,
  failed,
} = useAsked(
  () =>
    scene.dragging || !scene.opened
      ? undefined
      : JSON.stringify([scene.opened.id, scene.tick, of.value, second.value, typed.value]),
  (_, stop) => render(stop),
);
watch(failed, (refusal) => (problem.value = refusal?.message ?? ""));
const drop = (one: Made | null) => one && URL.revokeObjectURL(one.url);
watch(made, (_, before) => drop(before));
onBeforeUnmount(() => drop(made.value));

/** The scene takes the winner's steps, the paper where they are the paper's. */
async function take(piece: Piece): Promise<void> {
  const taken = settings().map(({ of }, n) => ({ of, step: piece.steps[n]! }));
  if (piece.steps.every((step) => !step)) return void (proof.strip = false);
  problem.value = "";
  await scene.errand("strip", async (errand) => {
    try {
      const path = `/api/scenes/${errand.scene}/strip/winner`;
      const next = await ask<SceneDocument>(path, { document: errand.now(), taken });
      if (!errand.here()) return;
      proof.strip = false;
      errand.done((document) => Object.assign(document, next), `From the strip: ${piece.label}`);
    } catch (error) {
      if (errand.here()) problem.value = (error as Error).message;
    }
  });
}
const share = (v: number, whole: number) => `${(100 * v) / whole}%`;
function press(): void {
  try {
    void proof.toPress({ long_edge: 2400, strip: settings(), piece: piece() });
  } catch (error) {
    problem.value = (error as Error).message;
  }
}
</script>

<template>
  <section class="strip" aria-label="Test strip">
    <div class="bar" role="toolbar" aria-label="What the strip shows">
      <ElSelect v-model="of" size="small" class="what" aria-label="Setting">
        <ElOption
          v-for="(n, k) in NAMED"
          :key="k"
          :value="k"
          :label="n.label"
          :disabled="k === 'sharpness' && !proof.paper"
        />
        <ElOption v-for="o in others" :key="o.value" :value="o.value" :label="o.label" />
      </ElSelect>
      <ElInput
        v-model="steps"
        size="small"
        class="steps"
        aria-label="Steps, added to what it is"
        @change="typed++"
      />
      <ElSelect
        v-model="second"
        size="small"
        class="what"
        aria-label="Second setting"
        placeholder="and nothing else"
        clearable
        @clear="second = ''"
      >
        <ElOption v-for="(n, k) in NAMED" :key="k" :value="k" :label="n.label" :disabled="k === of" />
        <ElOption
          v-for="o in others"
          :key="o.value"
          :value="o.value"
          :label="o.label"
          :disabled="o.value === of"
        />
      </ElSelect>
      <ElInput
        v-if="second"
        v-model="secondSteps"
        size="small"
        class="steps"
        aria-label="Steps of the second setting"
        @change="typed++"
      />
      <ElButton size="small" :disabled="!proof.paper?.profile" @click="press">Print on the press</ElButton>
      <a v-if="made" class="save" :href="made.url" :download="`${scene.opened?.name} strip.png`">Save</a>
      <ElButton size="small" @click="proof.strip = false">Close</ElButton>
    </div>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <div class="room">
      <div
        v-if="made"
        class="sheet"
        :style="{ aspectRatio: `${made.size[0]} / ${made.size[1]}`, maxWidth: `${made.size[0]}px` }"
      >
        <img :src="made.url" alt="" />
        <button
          v-for="p in made.pieces"
          :key="p.label"
          class="piece"
          type="button"
          :aria-label="`Take ${p.label}`"
          :style="{
            left: share(p.at[0], made.size[0]),
            top: share(p.at[1], made.size[1]),
            width: share(p.at[2], made.size[0]),
            height: share(p.at[3], made.size[1]),
          }"
          @click="take(p)"
        />
      </div>
    </div>
    <p class="help" role="status">
      {{
        busy
          ? "Rendering the strip …"
          : "Click the piece that is right. Zoom in first to choose which piece is shown."
      }}
    </p>
  </section>
</template>

<style scoped>
.strip {
  display: flex;
  flex-direction: column;
  height: 100%;
  background: var(--surround);
}
.bar {
  flex-wrap: wrap;
  background: var(--panel);
  padding: 5px 10px;
}
.what {
  width: 190px;
}
.steps {
  width: 180px;
}
.save {
  color: var(--accent);
  font-weight: 600;
}
.room {
  display: flex;
  flex: 1;
  align-items: center;
  justify-content: center;
  min-height: 0;
  padding: 16px;
}
.sheet {
  position: relative;
  width: 100%;
  max-height: 100%;
  filter: drop-shadow(0 3px 8px var(--mark-under));
}
.sheet img {
  display: block;
  width: 100%;
  height: 100%;
}
.piece {
  position: absolute;
  border: 0;
  background: none;
  cursor: pointer;
}
.piece:hover,
.piece:focus-visible {
  outline: 3px solid var(--focus);
  outline-offset: 0;
}
.help {
  align-self: center;
  margin-bottom: 6px;
  padding: 2px 10px;
  border-radius: 3px;
  background: var(--panel);
}
</style>
