import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { client, Refusal } from "./client";
import { isAway, onceBack, untilAnswered } from "./line";

/** Whether the studio answers, and how often it was asked whether it does. */
let there = false;
let tried = 0;
beforeEach(() => {
  vi.useFakeTimers();
  there = false;
  tried = 0;
  vi.spyOn(client, "GET").mockImplementation((() => {
    tried++;
    return there
      ? Promise.resolve({ data: { name: "demo" }, response: new Response("") })
      : Promise.reject(new TypeError("no line"));
  }) as never);
});
afterEach(async () => {
  there = true;
  window.dispatchEvent(new Event("online")); // nobody waits any more
  await vi.advanceTimersByTimeAsync(60_000);
  vi.useRealTimers();
});
const away = () => Promise.reject(new Refusal("nobody", 0));

it("knows nobody's answer from a refusal", () => {
  expect([0, 502, 504].map((status) => isAway(new Refusal("", status)))).toEqual([true, true, true]);
  expect([-1, 401, 409, 422, 500, 503].some((status) => isAway(new Refusal("", status)))).toBe(false);
  expect(isAway(new Error("nobody"))).toBe(false);
});

it("does once what waits when the studio answers, whatever else fails; and not what was taken back", async () => {
  const done: string[] = [];
  onceBack(() => done.push("one"));
  onceBack(() => done.push("taken back"))();
  onceBack(() => done.push("other"));
  await vi.advanceTimersByTimeAsync(30_000);
  expect(done).toEqual([]);
  there = true;
  await vi.advanceTimersByTimeAsync(20_000);
  expect(done).toEqual(["one", "other"]);
  await vi.advanceTimersByTimeAsync(60_000);
  expect(done).toHaveLength(2);
});

it("asks ever less often, and at once where the browser says that the line is back", async () => {
  const done = vi.fn();
  onceBack(done);
  await vi.advanceTimersByTimeAsync(120_000);
  expect(tried).toBeGreaterThan(4);
  expect(tried).toBeLessThan(13);
  there = true;
  window.dispatchEvent(new Event("online"));
  await vi.advanceTimersByTimeAsync(1);
  expect(done).toHaveBeenCalledOnce();
});

it("is not asked ever faster by what fails each time although the studio answers", async () => {
  there = true;
  const ask = vi.fn(away);
  let wanted = true;
  const end = untilAnswered(ask, () => undefined, () => wanted).catch(() => "ended"); // prettier-ignore
  await vi.advanceTimersByTimeAsync(60_000);
  expect(ask.mock.calls.length).toBeLessThan(10);
  wanted = false;
  await vi.advanceTimersByTimeAsync(60_000);
  expect(await end).toBe("ended");
});

it("asks until there is an answer, says meanwhile that there is none, and passes on a refusal", async () => {
  const said: string[] = [];
  const answers = [away, () => Promise.reject(new Refusal("Nothing grows there.", 422))];
  const asked = untilAnswered(
    () => answers.shift()!(),
    (error) => said.push(error.message),
  ).catch((error: Error) => error.message);
  await vi.advanceTimersByTimeAsync(1);
  expect(said).toEqual(["No connection to the server. Your work is kept; it is tried again."]);
  there = true;
  await vi.advanceTimersByTimeAsync(20_000);
  expect(await asked).toBe("Nothing grows there.");
});
