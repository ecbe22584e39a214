<script setup lang="ts">
/** A file for the printer: asked for beside the picture, followed while it is made. */
import { ElButton, ElProgress } from "element-plus";
import { onMounted, reactive, ref, shallowRef } from "vue";

import { client, need, type Schemas } from "../api/client";
import { useJob } from "../composables/job";
import { useRemoval } from "../composables/removal";
import { useScene } from "../stores/scene";
import { useTray } from "../stores/tray";

const emit = defineEmits<{ close: [] }>();
const scene = useScene();
const made = shallowRef<Schemas["JobOut"][]>([]);
const tray = useTray();
const { job, problem, running, start, resume, cancel } = useJob(() => void load());
const trouble = ref("");
// one that was begun before the panel was closed goes on
resume(tray.running.find((j) => j.kind === "export" && j.scene === scene.opened?.id));
/** The files made of this scene before. */
async function load(): Promise<void> {
  try {
    const params = { path: { scene_id: scene.opened!.id } };
    const all = await need(client.GET("/api/scenes/{scene_id}/jobs", { params }));
    made.value = all.filter((j) => j.state === "done" && j.id !== job.value?.id);
  } catch (error) {
    trouble.value = (error as Error).message;
  }
}
const removal = useRemoval(load);
const said = (error: Error) => (trouble.value = error.message);
const remove = (ids: string[]) => removal.remove("job", ids).catch(said);
const takeBack = () => removal.takeBack(removal.last.value).catch(said);
onMounted(load);
const want = reactive<Omit<Schemas["NewExport"], "long_edge"> & { long_edge: string }>({
  kind: "tif",
  space: "p3",
  bits: 16,
  long_edge: "",
});
const SPACES = { srgb: "sRGB", p3: "Display P3", rec2020: "Rec. 2020", linear: "Linear light, unrendered" };

function make(): void {
  const long = Number(want.long_edge);
  const body = { kind: want.kind, space: want.space, bits: want.bits, long_edge: long > 0 ? long : null };
  const path = { scene_id: scene.opened!.id };
  void start(need(client.POST("/api/scenes/{scene_id}/exports", { params: { path }, body })));
}
function kindChanged(): void {
  if (want.kind === "jpg") want.bits = 8;
  if (want.kind === "png" && want.bits === 32) want.bits = 16;
  if (want.kind === "tif") want.bits = 16;
}
</script>

<template>
  <section class="export" aria-label="Export">
    <header>
      <h2>File for the printer</h2>
      <button class="plain" type="button" aria-label="Close export" @click="emit('close')">✕</button>
    </header>
    <div class="grid">
      <label for="ex-kind">Kind</label>
      <select id="ex-kind" v-model="want.kind" class="boxed" @change="kindChanged">
        <option value="tif">TIFF</option>
        <option value="png">PNG</option>
        <option value="jpg">JPEG</option>
      </select>
      <label for="ex-bits">Bits</label>
      <select id="ex-bits" v-model.number="want.bits" class="boxed">
        <option v-for="b in { tif: [8, 16, 32], png: [8, 16], jpg: [8] }[want.kind]" :key="b" :value="b">
          {{ b === 32 ? "32, floating point" : b }}
        </option>
      </select>
      <label for="ex-space">Colour space</label>
      <select id="ex-space" v-model="want.space" class="boxed">
        <option v-for="(word, key) in SPACES" :key="key" :value="key">{{ word }}</option>
      </select>
      <label for="ex-long">Long edge, px</label>
      <input
        id="ex-long"
        v-model="want.long_edge"
        class="boxed"
        inputmode="numeric"
        placeholder="full size"
      />
    </div>
    <p v-if="problem || trouble" class="problem" role="alert">{{ problem || trouble }}</p>
    <div v-if="job && running" aria-live="polite">
      <ElProgress :percentage="Math.round(job.done * 100)" aria-label="Export" />
      <p class="quiet">{{ job.step }} <button class="plain" type="button" @click="cancel">Stop</button></p>
    </div>
    <p v-else-if="job?.state === 'done'" role="status">
      <a :href="`/api/jobs/${job.id}/file`" download>Save {{ job.file_name }}</a>
    </p>
    <p v-else-if="job" :class="{ problem: job.state === 'failed' }" role="status">{{ job.message }}</p>
    <ul v-if="made.length" class="made">
      <li v-for="j in made" :key="j.id">
        <a :href="`/api/jobs/${j.id}/file`" download>{{ j.file_name }}</a>
        <button class="plain" type="button" :aria-label="`Remove ${j.file_name}`" @click="remove([j.id])">
          Remove
        </button>
      </li>
    </ul>
    <p v-if="removal.last.value.length" role="status">
      {{ removal.last.value[0]!.name }} removed.
      <button class="plain" type="button" @click="takeBack">Take back</button>
    </p>
    <ElButton type="primary" :disabled="scene.saving !== 'saved' || scene.dirty || running" @click="make"
      >Make the file</ElButton
    >
  </section>
</template>

<style scoped>
.export {
  position: absolute;
  right: 12px;
  bottom: 12px;
  width: 290px;
  background: var(--panel);
  border: 1px solid var(--edge);
  border-radius: 4px;
  padding: 10px 12px 12px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
header {
  display: flex;
  justify-content: space-between;
}
h2 {
  font-weight: 600;
}
.grid {
  display: grid;
  grid-template-columns: 92px 1fr;
  gap: 5px;
  align-items: center;
}
.grid .boxed {
  min-width: 0;
  width: 100%;
}
a {
  color: var(--accent);
  font-weight: 600;
}
</style>
