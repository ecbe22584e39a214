import { expect, it } from "vitest";

import type { SceneDocument } from "../api/client";
import { blamed } from "./blamed";

const doc = () =>
  ({
    moves: [{ id: "m", kind: "contrast", on: true, name: "ridge" }],
    repairs: [{ id: "r", kind: "regrow", on: false }],
    sky: { id: "s", on: true },
    ground: { noise: { on: true, params: {} } },
  }) as unknown as SceneDocument;
const labels = [
  { kind: "contrast", label: "Contrast" },
  { kind: "new_sky", label: "New sky" },
  { kind: "noise", label: "Noise" },
];

it.each([
  ["m", "Contrast: ridge"],
  ["s", "New sky"],
  ["noise", "Noise"],
])("names a line of any band and switches it off: %s", (line, name) => {
  const document = doc();
  const found = blamed(document, line, labels)!;
  expect(found.name).toBe(name);
  found.off(document);
  expect(blamed(document, line, labels)).toBeNull();
});
it("offers nothing for what is off, or not there", () => {
  expect(blamed(doc(), "r", labels)).toBeNull();
  expect(blamed(doc(), "", labels)).toBeNull();
});
