import { describe, expect, it } from "vitest";

import { deciding, joined } from "./why";

const term = (id: string, join: string, value: number) => ({ id, join, value });

describe("why a place is in", () => {
  it("joins downward", () => {
    expect(joined([])).toBe(0);
    expect(joined([term("a", "add", 0.5), term("b", "add", 0.5)])).toBe(0.75);
    expect(joined([term("a", "add", 0.8), term("b", "keep_only", 0.5)])).toBe(0.4);
    expect(joined([term("a", "add", 0.8), term("b", "take_away", 0.25)])).toBeCloseTo(0.6);
    expect(joined([term("a", "take_away", 0.25)])).toBe(0.75);
  });
  it("names what decides", () => {
    expect(deciding([term("fan", "add", 0.9), term("ramp", "keep_only", 0.1)])).toBe("ramp");
    expect(deciding([term("fan", "add", 0.9), term("ramp", "keep_only", 1)])).toBe("fan");
    expect(deciding([term("fan", "add", 0.9), term("hand", "take_away", 1)])).toBe("hand");
    expect(deciding([term("fan", "add", 0), term("ramp", "add", 0)])).toBeNull();
  });
});
