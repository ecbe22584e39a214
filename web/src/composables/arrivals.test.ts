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
  it("nothing chosen is nothing done", async () => {
    const { bring } = made();
    await bring([]);
    await bring(null);
    expect(calls).toEqual([]);
  });
});
