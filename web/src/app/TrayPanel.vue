<script setup lang="ts">
/** The tray: what is under way with how long it takes, and what is done with its file. */
import { ElProgress } from "element-plus";

import { useDrawer } from "../stores/drawer";
import { going, useTray, type Job } from "../stores/tray";

const tray = useTray();
const drawer = useDrawer();
const KINDS: Record<string, string> = { shoot: "From the field camera", folder: "From a folder" };
/** A file's size as it is said. */
const size = (bytes: number) =>
  bytes < 1 << 20
    ? `${Math.ceil(bytes / 1024)} KB`
    : `${(bytes / (1 << 20)).toFixed(bytes < 10 << 20 ? 1 : 0)} MB`;
const called = (job: Job) => job.file_name || KINDS[job.kind] || job.name || job.kind;
function remains(job: Job): string {
  const seconds = tray.left(job);
  if (seconds === null) return "";
  if (seconds < 90) return `, ${Math.max(1, Math.round(seconds))} s left`;
  return `, ${Math.round(seconds / 60)} min left`;
}
</script>

<template>
  <section class="tray" aria-label="Tray">
    <p v-if="tray.problem" class="problem" role="alert">{{ tray.problem }}</p>
    <p v-if="tray.removed.length" role="status">
      {{ tray.removed[0]!.name }} removed.
      <button class="plain" type="button" @click="tray.takeBack">Undo</button>
    </p>
    <p v-if="!tray.jobs.length" class="quiet">Exports and imports appear here.</p>
    <ul>
      <li v-for="job in tray.jobs" :key="job.id">
        <template v-if="going(job)">
          <b>{{ called(job) }}</b>
          <button
            class="plain"
            type="button"
            :aria-label="`Stop ${called(job)}`"
            @click="tray.cancel(job.id)"
          >
            Stop
          </button>
          <ElProgress
            class="whole"
            :percentage="Math.round(job.done * 100)"
            :show-text="false"
            :aria-label="called(job)"
          />
          <span class="quiet whole">{{ job.step }}{{ remains(job) }}</span>
        </template>
        <template v-else>
          <a
            v-if="job.state === 'done' && job.file_name"
            class="file"
            :href="`/api/jobs/${job.id}/file`"
            download
          >
            <img v-if="job.preview" :src="`/api/jobs/${job.id}/preview`" alt="" />
            <span>
              {{ job.file_name }}<br />
              <span class="quiet"
                >{{ job.name }}{{ job.bytes ? `, ${size(job.bytes)}` : ""
                }}{{ job.kind === "press" ? ", measured off the sheet" : "" }}</span
              >
            </span>
          </a>
          <RouterLink
            v-else-if="job.state === 'done' && job.kind === 'join' && job.scene"
            :to="`/join/${job.scene}`"
            @click="drawer.close()"
            >{{ called(job) }}</RouterLink
          >
          <span v-else>{{ called(job) }}</span>
          <button
            class="plain"
            type="button"
            :aria-label="`Remove ${called(job)}`"
            @click="tray.remove(job.id)"
          >
            Remove
          </button>
          <span v-if="job.message" class="quiet whole" :class="{ problem: job.state === 'failed' }">{{
            job.message
          }}</span>
        </template>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
  padding: 4px 0;
  border-top: 1px solid var(--line);
}
li > :first-child {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.file {
  display: flex;
  align-items: center;
  gap: 8px;
}
.file img {
  width: 56px;
  max-height: 44px;
  object-fit: contain;
}
.file .quiet {
  font-weight: 400;
}
.whole {
  grid-column: 1 / 3;
}
a {
  color: var(--accent);
  font-weight: 600;
}
</style>
