import { beforeEach, describe, expect, it, vi } from "vitest";

import * as api from "../api/client";
import { useArrivals } from "./arrivals";

describe("files on their way in", () => {
  const calls: string[] = [];
  beforeEach(() => {
    calls.length = 0;
    vi.spyOn(api, "upload").mockImplementation((outing, file, told) => {
      calls.push(`${outing} ${file.name}`);
      told(1);
      return file.name === "bad.dng"
        ? Promise.reject(new api.Refusal("bad.dng cannot be opened.", 422))
        : (Promise.resolve({}) as never);
    });
  });
  const made = () =>
    useArrivals(
      () => Promise.resolve("trip"),
      () => Promise.resolve(calls.push("each")),
      () => Promise.resolve(calls.push("all")),
    );

  it("go one after another; a refused one stays and says why, the rest still come", async () => {
    const { arrivals, bring } = made();
    await bring(["a.dng", "bad.dng", "c.dng"].map((n) => new File(["x"], n)));
    expect(calls).toEqual(["trip a.dng", "each", "trip bad.dng", "each", "trip c.dng", "each", "all"]);
    expect(arrivals.value).toEqual([
      { name: "bad.dng", share: 1, state: "refused", said: "bad.dng cannot be opened." },
    ]);
  });
  it("one can be stopped while it comes, or before its turn; nothing is said of it", async () => {
    const { arrivals, coming, bring, stop } = made();
    let ours!: AbortSignal;
    vi.mocked(api.upload).mockImplementation((outing, file, _told, signal) => {
      calls.push(`${outing} ${file.name}`);
      if (file.name !== "a.dng") return Promise.resolve({}) as never;
      ours = signal!;
      return new Promise((_, no) =>
        signal!.addEventListener("abort", () => no(new api.Refusal("stopped", 0))),
      );
    });
    const all = bring(["a.dng", "b.dng", "c.dng"].map((n) => new File(["x"], n)));
    await vi.waitFor(() => expect(calls).toEqual(["trip a.dng"]));
    expect(arrivals.value.map((a) => a.state)).toEqual(["sending", "waiting", "waiting"]);
    stop(coming.value[1]!);
    stop(coming.value[0]!);
    expect(ours.aborted).toBe(true);
    await all;
    expect(calls).toEqual(["trip a.dng", "trip c.dng", "each", "all"]);
    expect(arrivals.value).toEqual([]);
  });
  it("nothing chosen is nothing done", async () => {
    const { bring } = made();
    await bring([]);
    await bring(null);
    expect(calls).toEqual([]);
  });
});
