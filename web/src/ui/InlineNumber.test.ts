import { mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it } from "vitest";

import type { ParamField } from "../api/client";
import InlineNumber from "./InlineNumber.vue";

const field = {
  name: "ev", kind: "number", label: "Exposure", unit: "stops", low: -6, high: 6, step: 0.1, default: 0,
  signed: true, decimals: 1, shown_times: 1, hint: "", automatic: "", words: {},
} as ParamField; // prettier-ignore

describe("a live number", () => {
  beforeEach(() => setActivePinia(createPinia()));
  const made = (value: unknown) => mount(InlineNumber, { props: { field, value }, attachTo: document.body });

  it("is a named spin button with its range and its words", () => {
    const number = made(-0.9).get("[role=spinbutton]");
    expect(number.attributes()).toMatchObject({
      "aria-label": "Exposure",
      "aria-valuenow": "-0.9",
      "aria-valuemin": "-6",
      "aria-valuemax": "6",
      "aria-valuetext": "−0.9 stops",
    });
    expect(number.text()).toBe("−0.9 stops");
  });
  it("steps by arrow keys, finely with Shift, and commits on release", async () => {
    const wrapper = made(1);
    const number = wrapper.get("[role=spinbutton]");
    await number.trigger("keydown", { key: "ArrowUp" });
    await number.trigger("keydown", { key: "ArrowLeft", shiftKey: true });
    expect(wrapper.emitted("change")).toEqual([[1.1], [0.99]]);
    expect(wrapper.emitted("commit")).toBeUndefined();
    await number.trigger("keyup", { key: "ArrowUp" });
    expect(wrapper.emitted("commit")).toHaveLength(1);
  });
  it("never leaves its range", async () => {
    const wrapper = made(6);
    await wrapper.get("[role=spinbutton]").trigger("keydown", { key: "ArrowUp" });
    expect(wrapper.emitted("change")).toEqual([[6]]);
  });
  it("is typed over with Enter; nonsense and Escape change nothing", async () => {
    const wrapper = made(1);
    await wrapper.get("[role=spinbutton]").trigger("keydown", { key: "Enter" });
    await wrapper.get("input").setValue("-2,5 stops");
    await wrapper.get("input").trigger("keydown.enter");
    expect(wrapper.emitted("change")).toEqual([[-2.5]]);
    expect(wrapper.emitted("commit")).toHaveLength(1);
    for (const [text, key] of [
      ["dark", "enter"],
      ["3", "esc"],
    ] as const) {
      await wrapper.get("[role=spinbutton]").trigger("keydown", { key: "Enter" });
      await wrapper.get("input").setValue(text);
      await wrapper.get("input").trigger(`keydown.${key}`);
    }
    expect(wrapper.emitted("change")).toHaveLength(1);
  });
});
