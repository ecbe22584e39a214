import { describe, expect, it } from "vitest";

import type { SceneDocument } from "../api/client";
import { dropUnused } from "./sources";

const document = (more: object) =>
  ({
    sources: ["own", "twin", "sky"].map((id) => ({ id, sha256: id, path: id })),
    base: { kind: "frame" },
    loans: [],
    sky: null,
    ...more,
  }) as unknown as SceneDocument;
const left = (more: object, source: string) => {
  const doc = document(more);
  dropUnused(doc, source);
  return doc.sources.map((s) => s.id);
};

describe("a frame that something was brought from", () => {
  it("goes when nothing is brought from it any more", () => {
    expect(left({}, "twin")).toEqual(["own", "sky"]);
  });
  it("stays while a loan or the sky is of it, and while the scene is made of it", () => {
    expect(left({ loans: [{ source: "twin" }] }, "twin")).toContain("twin");
    expect(left({ sky: { source: "twin" } }, "twin")).toContain("twin");
    expect(left({}, "own")).toContain("own");
    const base = { kind: "sweep", members: [{ source: "own" }, { source: "twin" }] };
    expect(left({ base }, "twin")).toContain("twin");
    expect(left({ base }, "sky")).not.toContain("sky");
  });
});
