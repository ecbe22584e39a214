import { createPinia, setActivePinia } from "pinia";
import { effectScope } from "vue";
import { beforeEach, afterEach, describe, expect, it, vi } from "vitest";

import { client } from "../api/client";
import { useJob } from "../composables/job";
import { useTray, type Job } from "./tray";

const job = (more: Partial<Job>): Job => ({
  id: "j", scene: "s", outing: null, kind: "export", state: "running", step: "", done: 0, message: "",
  file_name: "a.tif", name: "", preview: false, made: "", ...more,
}); // prettier-ignore

describe("the tray", () => {
  let there: Job[] = [];
  beforeEach(() => {
    vi.useFakeTimers();
    setActivePinia(createPinia());
    vi.spyOn(client, "GET").mockImplementation((() =>
      Promise.resolve({ data: there, response: new Response(null, { status: 200 }) })) as never);
  });
  afterEach(() => vi.useRealTimers());

  it("goes on following work whose panel was closed, until it is done", async () => {
    const tray = useTray();
    const scope = effectScope();
    const ended = vi.fn();
    const one = scope.run(() => useJob(ended))!;
    there = [job({ state: "queued" })];
    await one.start(Promise.resolve(there[0]!));
    expect(one.running.value).toBe(true);
    there = [job({ done: 0.5 })];
    await vi.advanceTimersByTimeAsync(500);
    expect(one.job.value!.done).toBe(0.5);
    scope.stop(); // the panel is closed
    there = [job({ state: "done", done: 1 })];
    await vi.advanceTimersByTimeAsync(500);
    expect(tray.jobs[0]!.state).toBe("done");
    expect(ended).not.toHaveBeenCalled();
    const asked = vi.mocked(client.GET).mock.calls.length;
    await vi.advanceTimersByTimeAsync(5000);
    expect(vi.mocked(client.GET).mock.calls.length).toBe(asked);
    const again = effectScope().run(() => useJob())!;
    again.resume(tray.jobs[0]);
    expect(again.job.value!.file_name).toBe("a.tif");
  });

  it("says when one ends to whoever began it", async () => {
    const ended = vi.fn();
    const one = effectScope().run(() => useJob(ended))!;
    there = [job({})];
    await one.start(Promise.resolve(there[0]!));
    there = [job({ state: "failed", message: "The disk is full." })];
    await vi.advanceTimersByTimeAsync(500);
    expect(ended).toHaveBeenCalledOnce();
    expect(one.problem.value).toBe("The disk is full."); // and why, where it failed
  });

  it("says how long it takes once that can be seen", async () => {
    const tray = useTray();
    there = [job({ done: 0.1 })];
    tray.put(there[0]!);
    expect(tray.left(there[0]!)).toBeNull();
    await vi.advanceTimersByTimeAsync(9000);
    expect(tray.left(job({ done: 0.4 }))).toBeCloseTo(18, 0);
  });

  it("asks again, more slowly, where the studio does not answer", async () => {
    const tray = useTray();
    tray.put(job({ done: 0.1 }));
    vi.mocked(client.GET).mockRejectedValueOnce(new TypeError("away"));
    await vi.advanceTimersByTimeAsync(500);
    expect(tray.problem).toContain("No connection");
    there = [job({ state: "done", done: 1 })];
    await vi.advanceTimersByTimeAsync(2000);
    expect(tray.problem).toBe("");
    expect(tray.running).toEqual([]);
  });
});
