import { describe, expect, it } from "vitest";

import type { SceneDocument } from "../api/client";
import type { Check } from "./check";
import { checked, checkOf, CHECKS, toldOf } from "./index";

const document = {
  schema_version: 1, sources: [{ id: "f", sha256: "0".repeat(64), path: "" }], name: "",
  ground: { base_exposure: { params: { ev: 1 } } }, latches: [{ id: "s", name: "Sky" }],
  moves: [{ id: "a", on: true }, { id: "b", on: true }],
} as unknown as SceneDocument; // prettier-ignore
const shown = (what: string, line: string | null, station = "Light", of = document) =>
  checked(of, checkOf(what), { station, line });

describe("a check", () => {
  it("leaves the document itself alone", () => {
    const before = JSON.stringify(document);
    for (const { what } of CHECKS) for (const station of ["Ground", "Light"]) shown(what, "a", station);
    expect(JSON.stringify(document)).toBe(before);
  });
  it("has a digit or a letter of its own, the same everywhere", () => {
    expect(new Set(CHECKS.map((c) => c.key)).size).toBe(CHECKS.length);
    for (const c of CHECKS) expect(c.key).toMatch(/^[0-9a-z]$/);
  });
  it("keeps the shape of the picture where only light is compared", () => {
    const worked = structuredClone(document) as unknown as { ground: Record<string, unknown> };
    worked.ground.plumb = { on: true, params: { lean: 4 } };
    const start = shown("start", null, "Ground", worked as unknown as SceneDocument);
    expect(Object.keys(start.ground as object)).toEqual(["plumb"]);
    expect(start.moves).toEqual([]);
    const without = shown("line", "plumb", "Ground", worked as unknown as SceneDocument);
    expect((without.ground as unknown as Record<string, { on: boolean }>).plumb!.on).toBe(false);
  });
  it("takes out what it names and keeps the latches", () => {
    expect(shown("", "a")).toEqual(document);
    expect(shown("line", "a").moves!.map((m) => m.on)).toEqual([false, true]);
    expect(shown("start", "a").moves).toEqual([]);
    expect(shown("start", "a").ground).toEqual(document.ground);
    expect(shown("untouched", null).ground).toBeUndefined();
    expect(shown("untouched", null).latches).toEqual(document.latches);
  });
  it("is one object, and nothing else knows of it", () => {
    const upsideDown: Check = {
      what: "upside down",
      key: "0",
      label: "Upside down",
      said: (station) => `As it never was, at ${station}`,
      document: (doc) => doc.moves!.reverse(),
    };
    const found = checkOf("upside down", [...CHECKS, upsideDown]);
    expect(checked(document, found, { station: "Light", line: null }).moves!.map((m) => m.id)).toEqual([
      "b",
      "a",
    ]);
    expect(toldOf(found, "Mend")).toBe("As it never was, at Mend");
  });
});
