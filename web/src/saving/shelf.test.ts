import { expect, it, vi } from "vitest";

import { browserShelf } from "./shelf";

it("is empty where a browser keeps nothing", async () => {
  vi.stubGlobal("indexedDB", undefined);
  expect(await browserShelf("w").left("s")).toEqual([]);
  vi.unstubAllGlobals();
});
