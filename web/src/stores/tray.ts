/** The tray: all long work, how far it is and what it left, wherever one goes meanwhile. */
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import { client, need, type Schemas } from "../api/client";
import { useRemoval } from "../composables/removal";

export type Job = Schemas["JobOut"];
export const going = (job: Job | null | undefined): boolean =>
  !!job && ["queued", "running"].includes(job.state);
/** How often it is asked how far work is, ms. */
const EVERY = 400;

export const useTray = defineStore("tray", () => {
  const jobs = shallowRef<Job[]>([]);
  const problem = ref("");
  const running = computed(() => jobs.value.filter(going));
  /** When a job was first seen under way, and how far it was then. */
  const seen = new Map<string, { at: number; done: number }>();
  let timer = 0;

  function take(next: Job[]): void {
    for (const job of next)
      if (job.state === "running" && job.done > 0 && !seen.has(job.id))
        seen.set(job.id, { at: Date.now(), done: job.done });
    jobs.value = next;
    if (running.value.length && !timer) timer = window.setTimeout(follow, EVERY);
  }
  async function follow(): Promise<void> {
    timer = 0;
    await load();
    if (problem.value && running.value.length && !timer) timer = window.setTimeout(follow, 4 * EVERY);
  }
  async function load(): Promise<void> {
    try {
      take(await need(client.GET("/api/jobs")));
      problem.value = "";
    } catch (error) {
      problem.value = (error as Error).message;
    }
  }
  /** Work that was begun just now. */
  function put(job: Job): void {
    take([job, ...jobs.value.filter((j) => j.id !== job.id)]);
  }
  async function cancel(id: string): Promise<void> {
    try {
      put(await need(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: id } } })));
    } catch (error) {
      problem.value = (error as Error).message;
    }
  }
  const removal = useRemoval(load);
  const say = (error: Error) => (problem.value = error.message);
  const remove = (id: string) => removal.remove("job", [id]).catch(say);
  const takeBack = () => removal.takeBack(removal.last.value).catch(say);
  /** Seconds until a job is done, as it went so far; null while that cannot be said. */
  function left(job: Job, now = Date.now()): number | null {
    const from = seen.get(job.id);
    if (!from || job.state !== "running" || job.done - from.done < 0.05) return null;
    return ((now - from.at) / 1000 / (job.done - from.done)) * (1 - job.done);
  }
  return { jobs, problem, running, load, put, cancel, remove, takeBack, removed: removal.last, left };
});
