import { describe, expect, it } from "vitest";

import { turned } from "./kinds/turning";

describe("the camera turned by hand", () => {
  const start = { lean: 2, swing: -1 };
  it("goes along with the pointer, by the angle it went", () => {
    // 200 px of a picture 800 px wide are a quarter of a long edge
    const { lean, swing } = turned(start, { x: 200, y: 0 }, 1 / 800, 0.75);
    expect(swing).toBeCloseTo(-1 + (Math.atan(0.25 / 0.75) * 180) / Math.PI, 2);
    expect(lean).toBe(2);
    expect(turned(start, { x: 0, y: -100 }, 1 / 800, 0.75).lean).toBeGreaterThan(2);
  });
  it("stays within what can be undone", () => {
    expect(turned(start, { x: 9e5, y: -9e5 }, 1 / 800, 0.1)).toEqual({ lean: 40, swing: 40 });
  });
});
