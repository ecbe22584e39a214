import { describe, expect, it } from "vitest";

import type { SceneDocument } from "../api/client";
import { compared } from "./compare";

const document = {
  schema_version: 1, sources: [{ id: "f", sha256: "0".repeat(64), path: "" }], name: "",
  ground: { base_exposure: { params: { ev: 1 } } }, latches: [{ id: "s", name: "Sky" }],
  moves: [{ id: "a", on: true }, { id: "b", on: true }],
} as unknown as SceneDocument; // prettier-ignore

describe("a comparison", () => {
  it("leaves the document itself alone", () => {
    const before = JSON.stringify(document);
    for (const what of ["", "line", "start", "cropped", "untouched", "mask"] as const)
      compared(document, what, "a");
    expect(JSON.stringify(document)).toBe(before);
  });
  it("keeps the shape of the picture where only light is compared", () => {
    const worked = structuredClone(document) as unknown as { ground: Record<string, unknown> };
    worked.ground.plumb = { on: true, params: { lean: 4 } };
    const shown = compared(worked as unknown as SceneDocument, "cropped", null);
    expect(Object.keys(shown.ground as object)).toEqual(["plumb"]);
    expect(shown.moves).toEqual([]);
    const without = compared(worked as unknown as SceneDocument, "line", "plumb");
    expect((without.ground as unknown as Record<string, { on: boolean }>).plumb!.on).toBe(false);
  });
  it("takes out what it names and keeps the latches", () => {
    expect(compared(document, "", "a")).toEqual(document);
    expect(compared(document, "line", "a").moves!.map((m) => m.on)).toEqual([false, true]);
    expect(compared(document, "start", "a").moves).toEqual([]);
    expect(compared(document, "start", "a").ground).toEqual(document.ground);
    expect(compared(document, "untouched", null).ground).toBeUndefined();
    expect(compared(document, "untouched", null).latches).toEqual(document.latches);
  });
});
