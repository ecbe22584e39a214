import { describe, expect, it } from "vitest";

import { overlay, tintAgainst } from "./tint";

const filled = (n: number, rgb: number[]) =>
  new Uint8ClampedArray(Array.from({ length: n }, () => [...rgb, 255]).flat());

describe("mask looks", () => {
  const mask = new Uint8ClampedArray(400).fill(255);
  it("choose a tint away from what lies under it", () => {
    const onYellow = tintAgainst(filled(400, [240, 200, 30]), mask);
    const onMagenta = tintAgainst(filled(400, [230, 40, 140]), mask);
    expect(onYellow).not.toEqual([240, 200, 20]);
    expect(onMagenta).not.toEqual([230, 40, 140]);
  });
  it("draw grey, inside and contour from the mask", () => {
    const half = new Uint8ClampedArray([0, 0, 255, 255, 0, 0, 255, 255]);
    expect(Array.from(overlay(half, 4, "grey", [1, 2, 3]).slice(8, 12))).toEqual([255, 255, 255, 255]);
    expect(overlay(half, 4, "inside", [1, 2, 3])[3]).toBe(255);
    const contour = overlay(half, 4, "contour", [1, 2, 3]);
    expect(contour[4 * 1 + 3]).toBe(255);
    expect(contour[4 * 2 + 3]).toBe(0);
  });
});
