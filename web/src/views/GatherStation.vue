<script setup lang="ts">
/** Gather: frames come in; a scene begins from one. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { ElButton, ElProgress } from "element-plus";
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { client, need, upload, type Schemas } from "../api/client";
import PathLine from "../components/PathLine.vue";
import { exposure } from "../model/facts";

interface Arrival {
  name: string;
  share: number;
  state: "sending" | "reading" | "refused";
  said: string;
}

const router = useRouter();
const queries = useQueryClient();
const { data: outings, error } = useQuery({
  queryKey: ["outings"],
  queryFn: () => need(client.GET("/api/outings")),
  retry: 1,
});
const chosen = ref<string | null>(null);
const outing = computed(
  () => outings.value?.find((o) => o.id === chosen.value) ?? outings.value?.[0] ?? null,
);
const arrivals = ref<Arrival[]>([]);
const over = ref(false);
const problem = ref("");
const picker = ref<HTMLInputElement>();

const frames = (n: number) => (n === 1 ? "1 frame" : `${n} frames`);

async function bring(files: FileList | File[] | null | undefined): Promise<void> {
  if (!files?.length) return;
  let into = outing.value?.id;
  if (!into) {
    into = (await need(client.POST("/api/outings", { body: { name: "My first outing" } }))).id;
  }
  for (const file of Array.from(files)) {
    const arrival = ref<Arrival>({ name: file.name, share: 0, state: "sending", said: "" });
    arrivals.value.push(arrival.value);
    const line = arrivals.value[arrivals.value.length - 1]!;
    try {
      await upload(into, file, (share) => {
        line.share = share;
        if (share >= 1) line.state = "reading";
      });
      arrivals.value = arrivals.value.filter((a) => a !== line);
    } catch (refusal) {
      line.state = "refused";
      line.said = (refusal as Error).message;
    }
    await queries.invalidateQueries({ queryKey: ["outings"] });
  }
}

async function begin(frame: Schemas["FrameLine"]): Promise<void> {
  try {
    const made = await need(
      client.POST("/api/frames/{frame_id}/scenes", {
        params: { path: { frame_id: frame.id } },
        body: { name: "" },
      }),
    );
    await router.push(`/light/${made.id}`);
  } catch (refusal) {
    problem.value = (refusal as Error).message;
  }
}

async function newOuting(): Promise<void> {
  const made = await need(client.POST("/api/outings", { body: { name: "New outing" } }));
  await queries.invalidateQueries({ queryKey: ["outings"] });
  chosen.value = made.id;
}

async function leave(): Promise<void> {
  await client.POST("/api/sign-out");
  await router.push("/sign-in");
}
</script>

<template>
  <div class="gather">
    <header>
      <h1>{{ outing?.name ?? "Gather" }}</h1>
      <PathLine at="Gather" :gather-says="outing ? frames(outing.frames.length) : ''" />
      <button class="plain" type="button" @click="leave">Sign out</button>
    </header>
    <main
      :class="{ over }"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="
        over = false;
        bring($event.dataTransfer?.files);
      "
    >
      <div class="bar">
        <ElButton type="primary" @click="picker?.click()">Bring in frames</ElButton>
        <input
          ref="picker"
          class="hidden-label"
          type="file"
          multiple
          tabindex="-1"
          aria-label="Files to bring in"
          @change="bring(($event.target as HTMLInputElement).files)"
        />
        <span class="quiet"
          >or drop files anywhere here. Raw files, TIFF, PNG and JPEG; they are never altered.</span
        >
        <label v-if="(outings?.length ?? 0) > 1" class="outings"
          >Outing
          <select v-model="chosen" class="boxed">
            <option v-for="o in outings" :key="o.id" :value="o.id">{{ o.name }}</option>
          </select></label
        >
        <button class="plain" type="button" @click="newOuting">New outing</button>
      </div>
      <p v-if="error || problem" class="problem" role="alert">{{ problem || (error as Error).message }}</p>
      <ul v-if="arrivals.length" class="arrivals" aria-live="polite">
        <li v-for="(a, n) in arrivals" :key="n">
          <template v-if="a.state === 'refused'">
            <span class="problem" role="alert">{{ a.said }}</span>
            <button class="plain" type="button" @click="arrivals.splice(n, 1)">Put away</button>
          </template>
          <template v-else>
            <span>{{ a.name }}</span>
            <ElProgress :percentage="Math.round(a.share * 100)" :show-text="false" :aria-label="a.name" />
            <span class="quiet">{{ a.state === "reading" ? "reading the frame" : "arriving" }}</span>
          </template>
        </li>
      </ul>
      <p v-if="outing && !outing.frames.length" class="empty">
        No frames yet. Bring in the raw files of one trip, then choose the one worth the evening.
      </p>
      <ul class="frames">
        <li v-for="frame in outing?.frames ?? []" :key="frame.id">
          <button
            class="look"
            type="button"
            :aria-label="
              frame.scenes.length ? `Open ${frame.scenes[0]!.name}` : `Make a scene from ${frame.name}`
            "
            @click="frame.scenes.length ? router.push(`/light/${frame.scenes[0]!.id}`) : begin(frame)"
          >
            <img :src="`/api/frames/${frame.id}/thumbnail`" :alt="frame.name" />
          </button>
          <h2>{{ frame.name }}</h2>
          <p class="quiet numeral">{{ exposure(frame.info) }}</p>
          <p class="scenes">
            <RouterLink v-for="s in frame.scenes" :key="s.id" :to="`/light/${s.id}`">{{ s.name }}</RouterLink>
            <button class="plain" type="button" @click="begin(frame)">Make a scene</button>
          </p>
        </li>
      </ul>
    </main>
  </div>
</template>

<style scoped>
.gather {
  height: 100%;
  display: flex;
  flex-direction: column;
}
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
  height: 52px;
  padding: 0 14px;
  border-bottom: 1px solid var(--line);
}
h1 {
  font-size: 16px;
  font-weight: 600;
  width: 240px;
}
header > button {
  margin-left: 160px;
}
main {
  flex: 1;
  overflow: auto;
  padding: 14px;
  background: #f4f4f4;
}
main.over {
  outline: 3px solid var(--accent);
  outline-offset: -6px;
}
.bar {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-bottom: 12px;
}
.outings {
  margin-left: auto;
}
.arrivals {
  list-style: none;
  padding: 0;
  margin: 0 0 12px;
}
.arrivals li {
  display: grid;
  grid-template-columns: 260px 220px 1fr;
  gap: 12px;
  align-items: center;
  padding: 4px 0;
}
.arrivals .problem {
  grid-column: 1 / 3;
}
.empty {
  padding: 60px 0;
  text-align: center;
  font-size: 15px;
}
.frames {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(340px, 1fr));
  gap: 20px;
}
.look {
  display: block;
  width: 100%;
  height: 260px;
  background: var(--surround);
  border: 0;
  padding: 14px;
  cursor: pointer;
}
.look img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
h2 {
  margin-top: 6px;
  font-weight: 600;
}
.scenes {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
}
.scenes a {
  color: var(--accent);
}
</style>
