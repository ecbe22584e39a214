import { describe, expect, it } from "vitest";

import { overlay, tintAgainst, type MaskLook } from "./tint";

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
  it("are laid pixel by pixel as they are said to be", () => {
    const every = new Uint8ClampedArray(256).map((_, i) => (i * 37) % 256);
    const laid = (look: MaskLook) => Array.from(overlay(every, 16, look, [9, 90, 200]));
    const of = (colour: (m: number) => number[]) =>
      Array.from(new Uint8ClampedArray(Array.from(every, colour).flat()));
    expect(laid("grey")).toEqual(of((m) => [m, m, m, 255]));
    expect(laid("inside")).toEqual(of((m) => [128, 128, 128, 255 - m]));
    expect(laid("tint")).toEqual(of((m) => [9, 90, 200, m * 0.62]));
    const band = (i: number) => Math.floor(every[i]! / 64);
    const differs = (i: number, j: number) => j < 256 && band(i) !== band(j);
    const edge = (i: number) => i % 16 !== 15 && (differs(i, i + 1) || differs(i, i + 16));
    const lines = Array.from(every, (_, i) => (edge(i) ? [9, 90, 200, 255] : [0, 0, 0, 0]));
    expect(laid("contour")).toEqual(lines.flat());
  });
});
