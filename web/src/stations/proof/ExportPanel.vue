<script setup lang="ts">
/** Files of the scene: what they are for, what they hold, and what they say of themselves. */
import { ElButton, ElCheckbox, ElInput, ElOption, ElProgress, ElSelect } from "element-plus";
import { useLocalStorage } from "@vueuse/core";
import { computed, onMounted, reactive, ref, shallowRef, watch } from "vue";

import { client, need, type Schemas } from "../../api/client";
import { useAsked } from "../../composables/asked";
import { useJob } from "../../composables/job";
import { useKeeps } from "../../stores/keeps";
import { useProof } from "../../stores/proof";
import { useScene } from "../../stores/scene";
import { useDrawer } from "../../stores/drawer";
import { useTray } from "../../stores/tray";
import GlyphMark from "../../ui/GlyphMark.vue";

type Kind = Schemas["NewExport"]["kind"];
type Space = Schemas["NewExport"]["space"];
const scene = useScene();
const proof = useProof();
const tray = useTray();
const { job, problem, running, resume, cancel } = useJob();
const trouble = ref("");
const keeps = useKeeps();
/** All scenes of the outing, too. */
const every = ref(false);
onMounted(() => void keeps.loadOthers());
// one that was begun before the panel was closed goes on
resume(tray.running.find((j) => j.kind === "export" && j.scene === scene.opened?.id));

const KINDS: Record<Kind, { label: string; bits: number[]; spaces: Space[] }> = {
  tif: {
    label: "TIFF",
    bits: [16, 8, 32],
    spaces: ["srgb", "p3", "rec2020", "romm", "grey", "linear", "paper"],
  },
  png: { label: "PNG", bits: [16, 8], spaces: ["srgb", "p3", "rec2020", "romm", "grey", "paper"] },
  jpg: { label: "JPEG", bits: [8], spaces: ["srgb", "p3", "rec2020", "romm", "grey", "paper"] },
  jxl: { label: "JPEG XL", bits: [8], spaces: ["srgb", "grey"] },
  webp: { label: "WebP", bits: [8], spaces: ["srgb", "p3"] },
  exr: { label: "OpenEXR, scene light", bits: [32], spaces: ["linear"] },
  pdf: {
    label: "PDF print sheet",
    bits: [8, 16],
    spaces: ["paper", "srgb", "p3", "rec2020", "romm", "grey"],
  },
};
const SPACES: Record<Space, string> = {
  srgb: "sRGB", p3: "Display P3", rec2020: "Rec. 2020", romm: "ROMM RGB", grey: "Grey",
  linear: "Linear light, unrendered", paper: "The paper's profile",
}; // prettier-ignore
const held = proof.paper;
/** What was wanted last, on this machine; the paper is the scene's. */
const last = useLocalStorage("sun-latch-export", {
  kind: "tif" as Kind,
  space: "p3" as Space,
  bits: 16,
  long_edge: "",
  ppi: "",
  border: false,
});
const want = reactive({ ...last.value, on: held ? held.id : "" });
if (held?.profile) want.space = "paper";
watch(want, (now) => {
  const { kind, bits, long_edge, ppi, border } = now;
  const space = now.space === "paper" ? last.value.space : now.space;
  last.value = { kind, space, bits, long_edge, ppi, border };
});
const words = useLocalStorage("sun-latch-words", { author: "", rights: "", name: "{scene}", place: false });
const caption = ref("");
/** Files to be made together with this one. */
const more = shallowRef<Schemas["NewExport"][]>([]);

const spaces = computed(() => {
  const one = proof.papers.find((p) => p.id === want.on);
  return KINDS[want.kind].spaces.filter((s) => s !== "paper" || one?.profile);
});
function settle(): void {
  const kind = KINDS[want.kind];
  if (!kind.bits.includes(want.bits)) want.bits = kind.bits[0]!;
  if (!spaces.value.includes(want.space)) want.space = spaces.value[0]!;
  if (want.kind === "pdf" && want.on) want.border = true;
}
watch([() => want.kind, () => want.on], settle, { immediate: true });

const number = (text: string) => (Number(text) > 0 ? Number(text) : null);
const file = (): Schemas["NewExport"] => ({
  kind: want.kind, space: want.space, bits: want.bits as 8 | 16 | 32,
  long_edge: want.on ? null : number(want.long_edge), paper: want.on || null, border: !!want.on && want.border,
  ppi: number(want.ppi), caption: caption.value, ...words.value,
}); // prettier-ignore
const said = (f: Schemas["NewExport"]) =>
  [
    KINDS[f.kind].label, SPACES[f.space], `${f.bits} bits`,
    f.paper ? proof.papers.find((p) => p.id === f.paper)?.name : "", f.border ? "with its border" : "",
    f.long_edge ? `${f.long_edge} px` : "", f.ppi ? `${f.ppi} ppi` : "",
  ]
    .filter(Boolean)
    .join(", "); // prettier-ignore

const { value: told } = useAsked(
  () => {
    const { author, rights, place } = words.value;
    return scene.opened
      ? { id: scene.opened.id, body: { caption: caption.value, author, rights, place } }
      : null;
  },
  ({ id, body }, signal) => {
    const params = { path: { scene_id: id } };
    return need(client.POST("/api/scenes/{scene_id}/about", { params, body, signal }));
  },
);

async function make(): Promise<void> {
  trouble.value = "";
  try {
    const others = every.value ? keeps.others.map((o) => o.id) : [];
    const body = { scenes: [scene.opened!.id, ...others], files: [...more.value, file()] };
    const made = await need(client.POST("/api/exports", { body }));
    made.forEach((j) => tray.put(j));
    more.value = [];
    resume(made.at(-1));
    if (made.length > 1) useDrawer().open = "tray";
  } catch (error) {
    trouble.value = (error as Error).message;
  }
}
</script>

<template>
  <section class="export" aria-label="Export">
    <div class="grid">
      <label for="ex-kind">Kind</label>
      <ElSelect id="ex-kind" v-model="want.kind" size="small" aria-label="Kind">
        <ElOption v-for="(k, key) in KINDS" :key="key" :value="key" :label="k.label" />
      </ElSelect>
      <label v-if="proof.papers.length" for="ex-on">For</label>
      <ElSelect v-if="proof.papers.length" id="ex-on" v-model="want.on" size="small" aria-label="For">
        <ElOption value="" label="screens, no paper" />
        <ElOption v-for="p in proof.papers" :key="p.id" :value="p.id" :label="p.name" />
      </ElSelect>
      <label for="ex-space">Colour space</label>
      <ElSelect id="ex-space" v-model="want.space" size="small" aria-label="Colour space">
        <ElOption v-for="s in spaces" :key="s" :value="s" :label="SPACES[s]" />
      </ElSelect>
      <label for="ex-bits">Bits</label>
      <ElSelect id="ex-bits" v-model="want.bits" size="small" aria-label="Bits">
        <ElOption
          v-for="b in KINDS[want.kind].bits"
          :key="b"
          :value="b"
          :label="b === 32 ? '32, floating point' : `${b}`"
        />
      </ElSelect>
      <template v-if="want.on">
        <label for="ex-ppi">Density, ppi</label>
        <ElInput
          id="ex-ppi"
          v-model="want.ppi"
          size="small"
          inputmode="numeric"
          placeholder="as many px as there are"
        />
        <span />
        <ElCheckbox v-model="want.border" size="small" label="With its border, the whole sheet" />
      </template>
      <template v-else>
        <label for="ex-long">Long edge, px</label>
        <ElInput
          id="ex-long"
          v-model="want.long_edge"
          size="small"
          inputmode="numeric"
          placeholder="full size"
        />
      </template>
    </div>
    <details>
      <summary>Name, caption, copyright</summary>
      <div class="grid">
        <label for="ex-name">File name</label>
        <ElInput id="ex-name" v-model="words.name" size="small" maxlength="200" />
        <label for="ex-caption">Caption</label>
        <ElInput id="ex-caption" v-model="caption" size="small" maxlength="2000" />
        <label for="ex-author">Author</label>
        <ElInput id="ex-author" v-model="words.author" size="small" maxlength="2000" />
        <label for="ex-rights">Copyright</label>
        <ElInput id="ex-rights" v-model="words.rights" size="small" maxlength="2000" />
        <span />
        <ElCheckbox v-model="words.place" size="small" label="Say where it was taken" />
      </div>
      <p class="quiet">
        Names may hold {scene}, {outing}, {paper}, {date}, {width}, {height}, {space}, {number}.
      </p>
      <ul class="told" aria-label="What the file will say">
        <li v-for="line in told" :key="line">{{ line }}</li>
      </ul>
    </details>
    <ul v-if="more.length" class="told" aria-label="Files to make">
      <li v-for="(f, n) in more" :key="n">
        {{ said(f) }}
        <button
          class="plain"
          type="button"
          :aria-label="`Leave out ${said(f)}`"
          @click="more = more.filter((_, k) => k !== n)"
        >
          <GlyphMark name="remove" />
        </button>
      </li>
    </ul>
    <ElCheckbox
      v-if="keeps.others.length"
      v-model="every"
      size="small"
      :label="`And the outing's other ${keeps.others.length} scenes`"
    />
    <p v-if="problem || trouble" class="problem" role="alert">{{ problem || trouble }}</p>
    <div v-if="job && running" aria-live="polite">
      <ElProgress :percentage="Math.round(job.done * 100)" aria-label="Export" />
      <p class="quiet">{{ job.step }} <button class="plain" type="button" @click="cancel">Stop</button></p>
    </div>
    <p v-else-if="job?.state === 'done'" role="status">
      <a :href="`/api/jobs/${job.id}/file`" download>Save {{ job.file_name }}</a>
    </p>
    <p v-else-if="job" :class="{ problem: job.state === 'failed' }" role="status">{{ job.message }}</p>
    <div class="acts">
      <ElButton size="small" @click="more = [...more, file()]">Add another file</ElButton>
      <ElButton
        size="small"
        type="primary"
        :disabled="scene.saving !== 'saved' || scene.dirty || running"
        @click="make"
        >{{ more.length ? `Export ${more.length + 1} files` : "Export" }}</ElButton
      >
    </div>
  </section>
</template>

<style scoped>
.export {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.grid {
  display: grid;
  grid-template-columns: 92px 1fr;
  gap: 5px;
  align-items: center;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
.told {
  margin: 4px 0 0;
  padding-left: 16px;
  font-size: 12px;
}
.acts {
  display: flex;
  justify-content: flex-end;
}
a {
  color: var(--accent);
  font-weight: 600;
}
</style>
