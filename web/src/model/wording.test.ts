import { describe, expect, it } from "vitest";

import type { Kind, ParamField } from "../api/client";
import { numeral, sentence, shown, typed, typedMove, within } from "./wording";

const field = (given: Partial<ParamField>): ParamField =>
  ({
    name: "ev", kind: "number", label: "Exposure", unit: "stops", low: -6, high: 6, step: 0.1, default: 0,
    signed: true, decimals: 1, shown_times: 1, hint: "", automatic: "", words: {}, ...given,
  }) as ParamField; // prettier-ignore
const exposure = {
  kind: "exposure", revision: 1, label: "Exposure", group: "", band: "light", says: "", sentence: "Exposure {ev}",
  fields: [field({})], verbs: ["exposure", "lift", "burn"], signs: { lift: 1, burn: -1 }, first: "ev", spares: [], latched: false, found: false, finder: "",
} as Kind; // prettier-ignore
const latches = [{ id: "s", name: "Sky" }, { id: "w", name: "Wet rock" }]; // prettier-ignore

describe("numbers read as in the core", () => {
  it("counts what was drawn, and knows a latch that is not chosen", () => {
    expect(shown(field({ kind: "drawn" }), [{}, {}])).toBe("2");
    expect(shown(field({ kind: "drawn" }), [])).toBe("0");
    expect(shown(field({ kind: "drawn" }), [{ sheet: "a", count: 48 }, {}])).toBe("49");
    expect(shown(field({ kind: "latch" }), "")).toBe("no latch yet");
  });
  it("shows sign, decimals and a true minus", () => {
    expect(numeral(field({}), -0.9)).toBe("−0.9");
    expect(numeral(field({}), 0.04)).toBe("0.0");
    expect(numeral(field({}), 1.25)).toBe("+1.3");
    expect(shown(field({ unit: "%", shown_times: 100, decimals: 0 }), 0.2)).toBe("+20 %");
    expect(shown(field({ automatic: "as shot" }), null)).toBe("as shot");
    expect(sentence(exposure, { ev: -0.9 })).toBe("Exposure −0.9 stops");
  });
  it("reads what is typed, kept in range", () => {
    expect(typed(field({}), "−0,9 stops")).toBe(-0.9);
    expect(typed(field({}), "44")).toBe(6);
    expect(typed(field({ shown_times: 100, high: 1 }), "20 %")).toBe(0.2);
    expect(typed(field({}), "dark")).toBeNull();
    expect(within(field({}), 0.1 + 0.2)).toBe(0.3);
  });
});

describe("typed moves", () => {
  it("reads verb, latch and number", () => {
    const burn = typedMove("burn sky 0.9", [exposure], latches)!;
    expect([burn.values.ev, burn.latch]).toEqual([-0.9, "s"]);
    const lift = typedMove("lift wet rock 2", [exposure], latches)!;
    expect([lift.values.ev, lift.latch]).toEqual([2, "w"]);
    expect(typedMove("exposure -0.5", [exposure], latches)!.values.ev).toBe(-0.5);
    const moon = typedMove("lift moon 2 stops", [exposure], latches)!;
    expect([moon.latch, moon.unknown]).toEqual([null, "moon"]);
    expect(typedMove("lift sky 2 stops", [exposure], latches)!.unknown).toBe("");
    expect(typedMove("lift 20 %", [exposure], latches)!.unknown).toBe("");
    expect(typedMove("sparkle 2", [exposure], latches)).toBeNull();
  });
});
