import { describe, expect, it } from "vitest";

import { blocks, clipped, groupName, type Frame, type Group } from "./gather";

const frame = (id: string, group: string | null = null, sorting = ""): Frame =>
  ({ id, name: id, group, sorting, info: {}, scenes: [] }) as unknown as Frame;
const group = (id: string, kind: string): Group => ({ id, kind, by_hand: false, reasons: [] });

describe("blocks", () => {
  const frames = [frame("a"), frame("b", "s"), frame("c"), frame("d", "s", "leave"), frame("e", "gone")];
  const groups = [group("s", "sweep")];
  it("put a group where its first frame was taken, and forget groups that are not there", () => {
    const made = blocks(frames, groups, null);
    expect(made.map((b) => b.frames.map((f) => f.id))).toEqual([["a"], ["b", "d"], ["c"], ["e"]]);
    expect(made[1]!.group?.kind).toBe("sweep");
  });
  it("show one heap", () => {
    expect(blocks(frames, groups, "leave").map((b) => b.frames.map((f) => f.id))).toEqual([["d"]]);
  });
});

describe("words", () => {
  it("name groups", () => {
    expect(groupName(group("a", "sweep"), 5)).toBe("Sweep of 5");
    expect(groupName(group("a", "twin"), 2)).toBe("Dark and bright pair");
  });
  it("say what clipped", () => {
    expect(clipped({ clipped: [0, 0.021, 0.01] })).toBe("clipped 2.1 %");
    expect(clipped({ clipped: [0, 0.0001, 0] })).toBe("nothing clipped");
    expect(clipped({ clipped: [0.3, 0, 0] })).toBe("clipped 30 %");
    expect(clipped({})).toBe("");
  });
});
