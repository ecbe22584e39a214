import { describe, expect, it } from "vitest";

import { headroom, seamTint, tinted } from "./seams";

const px = (...numbers: number[]) => new Uint8ClampedArray(numbers.flatMap((n) => [n, n, n, 255]));

describe("seams", () => {
  it("give each frame a tint of its own, over and over", () => {
    expect(seamTint(0)).not.toBe(seamTint(1));
    expect(seamTint(6)).toBe(seamTint(0));
  });
  it("are lines where frames meet, and nothing where there is none", () => {
    const out = tinted(px(1, 1, 2, 0), 4, [[10, 20, 30], [40, 50, 60]], -1); // prettier-ignore
    expect([...out.slice(0, 4)]).toEqual([10, 20, 30, 64]);
    expect(out[4]).toBe(255);
    expect([...out.slice(12, 16)]).toEqual([0, 0, 0, 0]);
  });
  it("show one alone where it is pointed at", () => {
    const out = tinted(px(1, 1, 1, 2, 2, 2), 6, [[1, 1, 1], [2, 2, 2]], 1); // prettier-ignore
    expect(out[3]).toBe(0);
    expect(out[4 * 4 + 3]).toBe(64);
  });
});

describe("a bracket", () => {
  it("reaches as far as its shortest exposure that is in", () => {
    const members = [-4, -2, 0, 2].map((ev) => ({ ev, on: true }));
    expect(headroom(members)).toBe(4);
    members[0]!.on = false;
    expect(headroom(members)).toBe(2);
  });
});
