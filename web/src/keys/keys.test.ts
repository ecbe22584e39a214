import { mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { defineComponent, nextTick } from "vue";

import { useKeys, type Action } from "./keys";
import KeyTable from "./KeyTable.vue";

const press = (key: string, on: EventTarget = document.body, type = "keydown") => {
  const e = new KeyboardEvent(type, { key, code: key, bubbles: true, cancelable: true });
  on.dispatchEvent(e);
  return e;
};
function action(name: string, key: string): Action & { run: ReturnType<typeof vi.fn> } {
  return { name, key, says: `do ${name}`, run: vi.fn(), up: vi.fn() };
}
let booth: ReturnType<typeof action>;
let zoom: ReturnType<typeof action>;
let page: ReturnType<typeof mount>;

beforeEach(() => {
  localStorage.clear();
  setActivePinia(createPinia());
  page?.unmount();
  booth = action("booth", "b");
  zoom = action("zoom", "2");
  page = mount(
    defineComponent({
      components: { KeyTable },
      setup: () => useKeys().add(booth, zoom),
      template: `<KeyTable :fixed="[['Escape', 'let go']]" /><input id="text" /><span id="number" role="spinbutton" tabindex="0" />`,
    }),
    { attachTo: document.body },
  );
  useKeys().reset();
});
const on = (id: string) => document.getElementById(id)!;

describe("keys", () => {
  it("do what was said, once, until they come up", () => {
    press("b");
    press("b", document.body, "keyup");
    expect(booth.run).toHaveBeenCalledOnce();
    expect(booth.up).toHaveBeenCalledOnce();
  });
  it("are letters where one types, and digits at a number", () => {
    press("b", on("text"));
    press("2", on("number"));
    expect(booth.run).not.toHaveBeenCalled();
    expect(zoom.run).not.toHaveBeenCalled();
    press("b", on("number"));
    expect(booth.run).toHaveBeenCalledOnce();
  });
  it("can be switched off", () => {
    useKeys().chosen.off = true;
    press("b");
    expect(booth.run).not.toHaveBeenCalled();
  });
  it("can be others, and are remembered", async () => {
    expect(useKeys().choose(booth, "y")).toBe("");
    press("b");
    expect(booth.run).not.toHaveBeenCalled();
    press("y");
    expect(booth.run).toHaveBeenCalledOnce();
    await nextTick();
    expect(JSON.parse(localStorage.getItem("sun-latch-keys")!).own).toEqual({ booth: "y" });
    useKeys().reset();
    press("b");
    expect(booth.run).toHaveBeenCalledTimes(2);
  });
  it("mean one thing only", () => {
    expect(useKeys().choose(booth, "2")).toBe("2 is: do zoom.");
    expect(useKeys().choose(booth, "Escape")).toContain("reserved");
    expect(useKeys().choose(booth, "")).toBe("");
    press("b");
    expect(booth.run).not.toHaveBeenCalled();
  });
  it("go with what says them", () => {
    page.unmount();
    press("b");
    expect(booth.run).not.toHaveBeenCalled();
  });
});

describe("the table", () => {
  it("takes another key for one", async () => {
    const button = page.find("button[aria-label^='do booth']");
    await button.trigger("click");
    await button.trigger("keydown", { key: "2" });
    expect(page.find("[role=alert]").text()).toBe("2 is: do zoom.");
    await button.trigger("keydown", { key: "y" });
    expect(button.text()).toBe("y");
    press("y");
    expect(booth.run).toHaveBeenCalledOnce();
  });
  it("takes one away", async () => {
    const button = page.find("button[aria-label^='do booth']");
    await button.trigger("click");
    await button.trigger("keydown", { key: "Delete" });
    expect(button.text()).toBe("none");
  });
});

describe("what comes with the program", () => {
  const files = import.meta.glob<string>(["../**/*.{ts,vue}", "!../**/*.test.ts"], {
    query: "?raw",
    import: "default",
    eager: true,
  });
  const said = Object.values(files).flatMap((text) => [
    ...text.matchAll(/name: "([^"]+)",\s+says: "[^"]*",\s+key: "([^"]+)"/g),
  ]);
  it("gives every key one meaning, at all stations together", () => {
    const meanings = new Map<string, Set<string>>();
    for (const [, name, key] of said) meanings.set(key!, (meanings.get(key!) ?? new Set()).add(name!));
    expect(meanings.size).toBeGreaterThan(15);
    expect([...meanings].filter(([, names]) => names.size > 1)).toEqual([]);
  });
});
