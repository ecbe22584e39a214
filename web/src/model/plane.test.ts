import { describe, expect, it } from "vitest";

import { centred, onStage, placed, Plane, visible, wheeled, type Map } from "./plane";
import truth from "./plane.truth.json";

/** Maps and points as the core has them (tests/core/test_map.py keeps the file true). */
const cases = truth.map((t) => ({ ...t, plane: new Plane(t.map as Map) }));
const upright = cases[0]!.plane;

describe("coordinates", () => {
  it("are the core's, through lens, turn and crop", () => {
    for (const { plane, source, picture } of cases)
      source.forEach(([x = 0, y = 0], n) => {
        const p = plane.toPicture({ x, y });
        // a tenth of a px of the screen
        expect(p.x).toBeCloseTo(picture[n]![0]!, 4);
        expect(p.y).toBeCloseTo(picture[n]![1]!, 4);
      });
  });
  it("come back", () => {
    for (const { plane } of cases) {
      for (const spot of [
        { x: 0.3, y: 0.2 },
        { x: -0.4, y: 1.1 },
      ]) {
        const back = plane.toSource(plane.toPicture(spot));
        expect(back.x).toBeCloseTo(spot.x, 6);
        expect(back.y).toBeCloseTo(spot.y, 6);
      }
    }
  });
  it("go on straight beyond what the map shows", () => {
    for (const { plane } of cases) {
      const [a, b, c] = [3, 4, 5].map((x) => plane.fromTurned({ x, y: 0.1 }));
      expect(c!.x - b!.x).toBeCloseTo(b!.x - a!.x, 6);
      expect(c!.y - b!.y).toBeCloseTo(b!.y - a!.y, 6);
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
  it("grows with the wheel, stays at 100 % in passing, and ends at the whole", () => {
    const once = wheeled(0, 0.2, -100);
    expect(once).toBeGreaterThan(0.2);
    expect(once).toBeLessThan(0.3);
    expect(wheeled(0.9, 0.2, -100)).toBe(1);
    expect(wheeled(1, 0.2, -100)).toBeGreaterThan(1.2);
    expect(wheeled(1.1, 0.2, 100)).toBe(1);
    expect(wheeled(0.22, 0.2, 100)).toBe(0);
    expect(wheeled(3.9, 0.2, -900)).toBe(4);
    let zoom = 0;
    for (let n = 0; n < 40; n++) zoom = wheeled(zoom, 0.2, -3); // a slow finger on a pad
    expect(zoom).toBeCloseTo(0.2 * 2 ** (120 / 240), 5);
  });
  it("keeps what is under the pointer there", () => {
    const [at, on] = [
      { x: 0.3, y: 0.6 },
      { x: 500, y: 200 },
    ];
    for (const zoom of [0.5, 1, 2]) {
      const back = onStage(placed(stage, upright, zoom, centred(stage, upright, zoom, at, on)), at);
      expect(Math.abs(back.x - on.x)).toBeLessThan(1);
      expect(Math.abs(back.y - on.y)).toBeLessThan(1);
    }
  });
});

describe("on a screen with two px to one of the page", () => {
  const stage = { width: 801, height: 601 };
  const plane = { width: 3000, height: 2000 };
  it("100 % is one px of the device, on whole ones", () => {
    const frame = placed(stage, plane, 1 / 2, { x: 0.3333, y: 0.5111 }, 20, 2);
    expect(frame.width * 2).toBe(3000);
    expect(Number.isInteger(frame.left * 2)).toBe(true);
    const [x0, , x1] = visible(stage, frame, 2);
    expect((x1 - x0) * 3000).toBeCloseTo(1602, 6);
    expect(x0 * 3000).toBeCloseTo(Math.round(x0 * 3000), 6);
  });
  it("a small picture is not drawn larger than its own px to fit", () => {
    const frame = placed(stage, { width: 600, height: 400 }, 0, { x: 0.5, y: 0.5 }, 20, 2);
    expect(frame.width).toBe(300);
  });
  it("with a ratio that is no whole number, too", () => {
    const frame = placed(stage, plane, 1 / 1.5, { x: 0.5, y: 0.5 }, 20, 1.5);
    const [x0, y0, x1, y1] = visible(stage, frame, 1.5);
    for (const edge of [x0 * 3000, x1 * 3000, y0 * 2000, y1 * 2000])
      expect(edge).toBeCloseTo(Math.round(edge), 6);
  });
});
