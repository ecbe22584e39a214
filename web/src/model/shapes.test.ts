import { describe, expect, it } from "vitest";

import { Plane, type Map } from "./plane";
import truth from "./plane.truth.json";
import { bentGrid, flatOf, inOrder, placesOf, shapeReads, stretches, type AnyShape } from "./shapes";

describe("shapes", () => {
  it("read as what they hold", () => {
    const line = {
      kind: "reshape",
      pins: [{}],
      lines: [{}, {}],
      pulled: [],
      params: {},
    } as unknown as AnyShape;
    expect(shapeReads(line)).toBe("Reshape: 2 lines, a pin");
    const nudge = { kind: "nudge", strokes: [{}], params: { strength: 1 } } as unknown as AnyShape;
    expect(shapeReads(nudge)).toBe("Nudge: a stroke");
  });
  it("keep places in turn, and put them in order along their line", () => {
    const places = [
      { x: 0.5, y: 0.2 },
      { x: 0.1, y: 0.21 },
      { x: 0.9, y: 0.19 },
      { x: 0.3, y: 0.2 },
    ];
    expect(placesOf(flatOf(places))).toEqual(places);
    const xs = inOrder(places).map((p) => p.x);
    expect([xs, [...xs].reverse()]).toContainEqual([0.1, 0.3, 0.5, 0.9]);
  });
  it("say how far a straight picture is stretched: not at all", () => {
    const plane = new Plane(truth[0]!.map as Map);
    for (const { times } of stretches(plane)) expect(times).toBeCloseTo(1, 4);
    for (const line of bentGrid(plane)) {
      const xs = line.map((p) => p.x);
      const ys = line.map((p) => p.y);
      const width = Math.min(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys));
      expect(width).toBeLessThan(1e-6);
    }
  });
});
