import { describe, expect, it } from "vitest";

import { Refusal } from "../api/client";
import { Newest, nextNumber } from "./pictures";

describe("the newest wins", () => {
  it("asks for the first and the last, never those between", async () => {
    const asked: number[] = [];
    const got: number[] = [];
    const newest = new Newest<number>(
      (v) => got.push(v),
      () => undefined,
    );
    for (const n of [1, 2, 3, 4])
      newest.ask(async () => {
        asked.push(n);
        await Promise.resolve();
        return n;
      });
    await new Promise((r) => setTimeout(r, 5));
    expect(asked).toEqual([1, 4]);
    expect(got).toEqual([1, 4]);
  });
  it("goes on after a refusal, and says it", async () => {
    const said: string[] = [];
    const got: number[] = [];
    const newest = new Newest<number>(
      (v) => got.push(v),
      (e) => said.push(e.message),
    );
    newest.ask(() => Promise.reject(new Refusal("no", 422)));
    newest.ask(() => Promise.resolve(7));
    await new Promise((r) => setTimeout(r, 5));
    expect([said, got]).toEqual([["no"], [7]]);
    // what nobody expected does not stop it either
    newest.ask(() => Promise.reject(new TypeError("not a picture")));
    newest.ask(() => Promise.resolve(8));
    await new Promise((r) => setTimeout(r, 5));
    expect(said[1]).toContain("could not be shown");
    expect(got).toEqual([7, 8]);
  });
  it("lets nothing wait for a patient request", async () => {
    const got: string[] = [];
    const newest = new Newest<string>(
      (v) => got.push(v),
      () => undefined,
    );
    let finish: (said: string) => void = () => undefined;
    newest.ask(() => new Promise<string>((r) => (finish = r)), true);
    newest.ask(() => Promise.resolve("drag"));
    await new Promise((r) => setTimeout(r, 5));
    expect(got).toEqual(["drag"]);
    finish("rest");
    await new Promise((r) => setTimeout(r, 5));
    expect(got).toEqual(["drag"]);
    newest.ask(() => Promise.resolve("next"));
    await new Promise((r) => setTimeout(r, 5));
    expect(got).toEqual(["drag", "next"]);
  });
  it("numbers rise", () => {
    expect(nextNumber()).toBeLessThan(nextNumber());
  });
});
