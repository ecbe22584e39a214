import { describe, expect, it } from "vitest";

import { placed, Plane, visible } from "./plane";

const upright = new Plane([[1, 0, 0], [0, 1, 0]], 4000, 3000); // prettier-ignore
const turned = new Plane([[0, -1, 0.75], [1, 0, 0]], 3000, 4000); // prettier-ignore

describe("coordinates", () => {
  it("come back", () => {
    for (const plane of [upright, turned]) {
      const back = plane.toSource(plane.toPicture({ x: 0.3, y: 0.2 }));
      expect(back.x).toBeCloseTo(0.3);
      expect(back.y).toBeCloseTo(0.2);
    }
  });
  it("turn with the frame", () => {
    const p = turned.toPicture({ x: 0, y: 0 });
    expect(p.x).toBeCloseTo(1);
    expect(p.y).toBeCloseTo(0);
  });
});

describe("the stage", () => {
  const stage = { width: 800, height: 600 };
  it("fits the whole picture in the middle", () => {
    const f = placed(stage, upright, 0, { x: 0.5, y: 0.5 });
    expect(f.width / f.height).toBeCloseTo(4 / 3, 2);
    expect(visible(stage, f)).toEqual([0, 0, 1, 1]);
  });
  it("shows as many picture px as it has at 100 %", () => {
    const f = placed(stage, upright, 1, { x: 0.5, y: 0.5 });
    const [x0, y0, x1, y1] = visible(stage, f);
    expect((x1 - x0) * 4000).toBeCloseTo(800);
    expect((y1 - y0) * 3000).toBeCloseTo(600);
  });
  it("stops at the picture's edge", () => {
    const f = placed(stage, upright, 1, { x: 0, y: 1 });
    expect(f.left).toBe(0);
    expect(f.top + f.height).toBe(600);
  });
});
