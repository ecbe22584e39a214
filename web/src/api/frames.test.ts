import { expect, it, vi } from "vitest";

import { client } from "./client";
import { framesOf } from "./frames";

it("are fetched page by page, beyond the first four hundred, and no further than need be", async () => {
  const all = Array.from({ length: 950 }, (_, n) => ({ id: `f${n}` }));
  const get = vi.spyOn(client, "GET").mockImplementation(((_: string, options: unknown) => {
    const { after } = (options as { params: { query: { after: number } } }).params.query;
    return Promise.resolve({ data: all.slice(after, after + 400), response: new Response("") });
  }) as never);
  expect(await framesOf("o")).toHaveLength(950);
  get.mockClear();
  expect((await framesOf("o", (f) => f.id === "f500")).at(-1)!.id).toBe("f799");
  expect(get).toHaveBeenCalledTimes(2);
});
