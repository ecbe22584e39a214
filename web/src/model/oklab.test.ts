import { describe, expect, it } from "vitest";

import { inSrgb } from "./oklab";

describe("swatches", () => {
  it("shows white, black and sRGB's own red", () => {
    expect(inSrgb(1, 0, 0)).toBe("rgb(255 255 255)");
    expect(inSrgb(0, 0, 0)).toBe("rgb(0 0 0)");
    expect(inSrgb(0.62796, 0.22486, 0.12585)).toBe("rgb(255 0 0)");
  });
  it("stays within a screen's colours", () => {
    expect(inSrgb(0.8, 0.4, 0.3)).toMatch(/^rgb\(\d{1,3} \d{1,3} \d{1,3}\)$/);
  });
});
