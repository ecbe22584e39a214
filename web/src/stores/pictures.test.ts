import { describe, expect, it, vi } from "vitest";
import { effectScope } from "vue";

import { client, Refusal } from "../api/client";
import { Newest, nextNumber } from "./pictures";

/** The line is back, and the studio answers. */
async function answered(): Promise<void> {
  vi.spyOn(client, "GET").mockResolvedValue({ data: { name: "demo" }, response: new Response("") } as never);
  window.dispatchEvent(new Event("online"));
  await new Promise((r) => setTimeout(r, 5));
}

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
  it("asks and tells no more once its part of the page is gone", async () => {
    const told: unknown[] = [];
    const asked: number[] = [];
    const page = effectScope();
    const newest = page.run(() => new Newest<number>((v) => told.push(v), (e) => told.push(e)))!; // prettier-ignore
    let finish: (n: number) => void = () => undefined;
    const question = (n: number) => () => {
      asked.push(n);
      return new Promise<number>((r) => (finish = r));
    };
    newest.ask(question(1));
    newest.ask(question(2));
    page.stop();
    finish(1);
    newest.ask(question(3));
    await new Promise((r) => setTimeout(r, 5));
    expect([asked, told]).toEqual([[1], []]);
  });
  it("asks again what nobody answered, but not where something newer was asked since", async () => {
    const got: number[] = [];
    const said: string[] = [];
    const newest = new Newest<number>((v) => got.push(v), (e) => said.push(e.message)); // prettier-ignore
    let away = true;
    const asks = (n: number) => () => (away ? Promise.reject(new Refusal("nobody", 0)) : Promise.resolve(n));
    newest.ask(asks(1));
    await new Promise((r) => setTimeout(r, 5));
    newest.ask(asks(2));
    await new Promise((r) => setTimeout(r, 5));
    expect(said).toEqual(Array(2).fill("No connection to the server. Your work is kept; it is tried again."));
    away = false;
    await answered();
    expect(got).toEqual([2]);
  });
  it("numbers rise", () => {
    expect(nextNumber()).toBeLessThan(nextNumber());
  });
});
