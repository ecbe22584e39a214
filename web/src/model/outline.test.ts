import { expect, test } from "vitest";

import { outlinePath } from "./outline";

const square = (sharp: boolean) =>
  [
    [0, 0],
    [4, 0],
    [4, 4],
    [0, 4],
  ].map(([x, y]) => ({ x: x!, y: y!, sharp }));

test("sharp corners are joined by straight lines", () => {
  expect(outlinePath(square(true))).toBe("M0 0L4 0L4 4L0 4L0 0");
});

test("curves pass through their points with the tangent of their neighbours", () => {
  const path = outlinePath(square(false));
  expect(path.startsWith("M0 0C")).toBe(true);
  const first = path
    .slice(path.indexOf("C") + 1)
    .split("C")[0]!
    .split(" ")
    .map(Number);
  // tangent at (0, 0) is half of (4, 0) − (0, 4): a third of it lies before the first control point
  expect(first[0]).toBeCloseTo(4 / 6);
  expect(first[1]).toBeCloseTo(-4 / 6);
  expect(first.slice(4)).toEqual([4, 0]);
});

test("two points are a line, none are nothing", () => {
  expect(outlinePath([])).toBe("");
  expect(outlinePath(square(false).slice(0, 2))).toBe("M0 0L4 0L0 0");
});
