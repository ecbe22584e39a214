import { expect, it } from "vitest";

import { liesOn, type AnyRepair } from "./repairs";

const own = { id: "r", on: true, name: "", revision: 1, params: {} };
const heal = {
  ...own,
  kind: "heal",
  area: { strokes: [{ points: [0.2, 0.2, 1, 0.4, 0.2, 1], radius: 0.02 }], outline: [] },
} as unknown as AnyRepair;
const grown = {
  ...own,
  kind: "regrow",
  area: { strokes: [], outline: [0.1, 0.1, 0.5, 0.1, 0.5, 0.5, 0.3, 0.2, 0.1, 0.5] },
} as unknown as AnyRepair;
const wire = { ...own, kind: "wire", path: [0, 0.3, 0.5, 0.32, 1, 0.3] } as unknown as AnyRepair;
const specks = { ...own, kind: "specks", spots: [{ x: 0.5, y: 0.5, radius: 0.01 }] } as unknown as AnyRepair;

it.each([
  ["in the middle of a stroke", heal, { x: 0.3, y: 0.21 }, true],
  ["past its end, within its radius", heal, { x: 0.415, y: 0.2 }, true],
  ["past its end", heal, { x: 0.43, y: 0.2 }, false],
  ["inside an outline", grown, { x: 0.2, y: 0.2 }, true],
  ["in its bay", grown, { x: 0.3, y: 0.4 }, false],
  ["on a wire that sags", wire, { x: 0.25, y: 0.311 }, true],
  ["beside it", wire, { x: 0.25, y: 0.33 }, false],
  ["on a speck", specks, { x: 0.508, y: 0.5 }, true],
  ["beside it", specks, { x: 0.52, y: 0.5 }, false],
] as const)("%s", (_, repair, at, lies) => {
  expect(liesOn(repair, at, 0.002)).toBe(lies);
});

it("is missed by no more than what is allowed", () => {
  expect(liesOn(specks, { x: 0.52, y: 0.5 }, 0.011)).toBe(true);
});
