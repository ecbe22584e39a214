import { describe, expect, it } from "vitest";

import { placed, Plane, visible, type Map } from "./plane";
import truth from "./plane.truth.json";

/** Maps and points as the core has them (tests/core/test_geometry.py keeps the file true). */
const cases = truth.map((t) => ({ ...t, plane: new Plane({ ...t.map, kept: [] } as Map) }));
const upright = cases[0]!.plane;

describe("coordinates", () => {
  it("are the core's, through lens, turn and crop", () => {
    for (const { plane, source, picture } of cases)
      source.forEach(([x = 0, y = 0], n) => {
        const p = plane.toPicture({ x, y });
        expect(p.x).toBeCloseTo(picture[n]![0]!, 6);
        expect(p.y).toBeCloseTo(picture[n]![1]!, 6);
      });
  });
  it("come back", () => {
    for (const { plane } of cases) {
      const back = plane.toSource(plane.toPicture({ x: 0.3, y: 0.2 }));
      expect(back.x).toBeCloseTo(0.3, 6);
      expect(back.y).toBeCloseTo(0.2, 6);
    }
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
