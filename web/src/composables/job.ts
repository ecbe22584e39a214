/** One piece of long work begun here. The tray goes on following it when this is closed. */
import { computed, ref, watch } from "vue";

import { going, useTray, type Job } from "../stores/tray";

export function useJob(
  ended: (job: Job) => void = () => undefined,
  step: (job: Job) => void = () => undefined,
) {
  const tray = useTray();
  const id = ref("");
  const refused = ref("");
  const job = computed(() => tray.jobs.find((j) => j.id === id.value) ?? null);
  const problem = computed(() => {
    if (refused.value || !id.value) return refused.value;
    return job.value?.state === "failed" ? job.value.message : tray.problem;
  });
  const running = computed(() => going(job.value));

  watch(job, (now, before) => {
    if (!now || now.id !== before?.id) return;
    if (now.step !== before.step) step(now);
    if (going(before) && !going(now)) ended(now);
  });
  async function start(begun: Promise<Job>): Promise<void> {
    refused.value = "";
    try {
      const made = await begun;
      tray.put(made);
      id.value = made.id;
    } catch (error) {
      refused.value = (error as Error).message;
    }
  }
  /** Go on with one that is under way. */
  function resume(made: Job | undefined): void {
    if (made) id.value = made.id;
  }
  const cancel = () => tray.cancel(id.value);
  return { job, problem, running, start, resume, cancel };
}
