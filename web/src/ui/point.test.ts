import { mount } from "@vue/test-utils";
import { expect, it, vi } from "vitest";

// it listens to the window it is read in: read anew, in this file's
vi.resetModules();
const { vPoint } = await import("./point");

const moves = (kind: string, x: number) => new MouseEvent(kind, { clientX: x, clientY: 5, bubbles: true });

it("tells what the pointer was moved onto, not what came to lie under it", () => {
  const told: boolean[] = [];
  const row = mount(
    {
      directives: { point: vPoint },
      setup: () => ({ told: (on: boolean) => told.push(on) }),
      template: "<li v-point='told' />",
    },
    { attachTo: document.body },
  ).element;
  document.body.dispatchEvent(moves("pointermove", 40));
  row.dispatchEvent(moves("pointerenter", 40)); // a sheet above it closed
  row.dispatchEvent(moves("pointermove", 40));
  expect(told).toEqual([]);
  row.dispatchEvent(moves("pointermove", 41));
  row.dispatchEvent(moves("pointermove", 42));
  expect(told).toEqual([true]);
  row.dispatchEvent(moves("pointerleave", 90));
  document.body.dispatchEvent(moves("pointermove", 90));
  row.dispatchEvent(moves("pointerenter", 41)); // moved back onto it
  expect(told).toEqual([true, false, true]);
});
