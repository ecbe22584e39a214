import { describe, expect, it, vi } from "vitest";
import { effectScope, nextTick, ref } from "vue";

import { client, Refusal } from "../api/client";
import { useAsked } from "./asked";

const settle = () => new Promise((go) => setTimeout(go));

function asking() {
  const key = ref<string | null | undefined>("a");
  const answers: Record<string, (v: unknown) => void> = {};
  const stops: Record<string, AbortSignal> = {};
  const request = vi.fn((k: string, stop: AbortSignal) => {
    stops[k] = stop;
    return new Promise<string>((go, no) => {
      answers[k] = (v) => (v instanceof Error ? no(v) : go(v as string));
    });
  });
  const scope = effectScope();
  const asked = scope.run(() => useAsked(() => key.value, request))!;
  return { key, answers, stops, scope, asked, request };
}

/** The line is back, and the studio answers. */
async function answered(): Promise<void> {
  vi.spyOn(client, "GET").mockResolvedValue({ data: { name: "demo" }, response: new Response("") } as never);
  window.dispatchEvent(new Event("online"));
  await new Promise((r) => setTimeout(r, 5));
}

describe("what is asked", () => {
  it("is asked again where nobody answered, and not once something else is", async () => {
    const { key, answers, asked, request } = asking();
    answers.a!(new Refusal("nobody", 0));
    await settle();
    expect(asked.failed.value?.message).toContain("tried again");
    await answered();
    answers.a!("of a");
    await settle();
    expect(asked.value.value).toBe("of a");
    key.value = "b";
    await nextTick();
    answers.b!(new Refusal("nobody", 0));
    await settle();
    key.value = "c";
    await nextTick();
    await answered();
    expect(request.mock.calls.map(([k]) => k)).toEqual(["a", "a", "b", "c"]);
  });
  it("is answered by the newest question, whichever answer comes first", async () => {
    const { key, answers, stops, asked } = asking();
    key.value = "b";
    await nextTick();
    expect(stops.a!.aborted).toBe(true);
    answers.b!("of b");
    await settle();
    answers.a!("of a");
    await settle();
    expect(asked.value.value).toBe("of b");
    expect(asked.pending.value).toBe(false);
  });
  it("stays where it is not the time to ask, and goes where there is nothing to", async () => {
    const { key, answers, asked, request } = asking();
    answers.a!("of a");
    await settle();
    key.value = undefined;
    await nextTick();
    expect(asked.value.value).toBe("of a");
    key.value = null;
    await nextTick();
    expect(asked.value.value).toBe(null);
    expect(request).toHaveBeenCalledOnce();
  });
  it("says why it was refused, until it is answered", async () => {
    const { key, answers, asked } = asking();
    answers.a!(new Refusal("no", 422));
    await settle();
    expect(asked.failed.value?.status).toBe(422);
    key.value = "b";
    await nextTick();
    answers.b!("of b");
    await settle();
    expect(asked.failed.value).toBe(null);
  });
  it("is aborted with its view", async () => {
    const { answers, stops, scope, asked } = asking();
    scope.stop();
    expect(stops.a!.aborted).toBe(true);
    answers.a!("too late");
    await settle();
    expect(asked.value.value).toBe(null);
  });
});
