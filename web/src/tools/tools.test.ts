import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it } from "vitest";
import { ref } from "vue";

import { MAKERS, toolsFor } from "./index";
import type { Maker } from "./tool";

const hand = { frame: ref({ left: 0, top: 0, width: 100, height: 100 }) };
beforeEach(() => setActivePinia(createPinia()));

describe("tools", () => {
  it("have one shape, and say what one does with them", () => {
    const tools = toolsFor(hand);
    expect(Object.keys(tools).length).toBeGreaterThan(15);
    for (const [name, tool] of Object.entries(tools)) {
      if (tool.ready) continue; // in no hand
      expect(tool.says, name).toMatch(/\.$/);
      expect(tool.down, name).toBeTypeOf("function");
      expect(tool.key ?? tool.move, name).toBeTypeOf("function");
    }
  });
  it("leave nothing behind when they are taken away before they began", () => {
    for (const tool of Object.values(toolsFor(hand))) expect(tool.cancel?.() ?? false).toBe(false);
  });
  it("take a new one from its file alone", () => {
    const stamp: Maker = ({ frame }) => {
      const at: number[] = [];
      return {
        stamp: {
          says: "Stamp.",
          down: (p) => void at.push(p.stage.x / frame.value.width),
          busy: () => at.length > 0,
        },
      };
    };
    const tools = toolsFor(hand, [...MAKERS, stamp]);
    tools.stamp!.down!({ stage: { x: 50, y: 0 }, shift: false, pressure: 1, between: [] });
    expect(tools.stamp!.busy!()).toBe(true);
    expect(Object.keys(tools)).toContain("paint");
  });
});
