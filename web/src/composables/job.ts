/** A job followed while it runs. */
import { computed, onScopeDispose, ref, shallowRef } from "vue";

import { client, need, type Schemas } from "../api/client";

type Job = Schemas["JobOut"];

export function useJob(
  ended: (job: Job) => void = () => undefined,
  step: (job: Job) => void = () => undefined,
) {
  const job = shallowRef<Job | null>(null);
  const problem = ref("");
  const running = computed(() => !!job.value && ["queued", "running"].includes(job.value.state));
  let timer = 0;

  async function start(begun: Promise<Job>): Promise<void> {
    problem.value = "";
    try {
      job.value = await begun;
      follow();
    } catch (error) {
      problem.value = (error as Error).message;
    }
  }
  function follow(): void {
    window.clearTimeout(timer);
    timer = window.setTimeout(async () => {
      if (!job.value) return;
      try {
        const before = job.value.step;
        job.value = await need(
          client.GET("/api/jobs/{job_id}", { params: { path: { job_id: job.value.id } } }),
        );
        problem.value = "";
        if (job.value.step !== before) step(job.value);
      } catch (error) {
        problem.value = (error as Error).message;
      }
      if (running.value) follow();
      else ended(job.value);
    }, 300);
  }
  async function cancel(): Promise<void> {
    if (!job.value) return;
    const path = { job_id: job.value.id };
    try {
      job.value = await need(client.POST("/api/jobs/{job_id}/cancel", { params: { path } }));
    } catch (error) {
      problem.value = (error as Error).message;
    }
  }
  onScopeDispose(() => window.clearTimeout(timer));
  return { job, problem, running, start, cancel };
}
