import { flushPromises, mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { defineComponent, nextTick, reactive } from "vue";

import PictureView from "./PictureView.vue";
import type { Wish } from "./shown";
import { viewport } from "./viewport";

const asked: { path: string; body: Record<string, unknown> }[] = [];
/** An answer that is held back. */
let held: Promise<Response> | null = null;
/** What of the frame is there. */
let frame = "whole";
const shot = (frame: string) => new Response(new Blob(), { headers: { "X-Frame": frame } });

/** Whatever is looked at is 400 × 300 px. */
class Sized {
  constructor(private readonly told: ResizeObserverCallback) {}
  observe(): void {
    this.told([{ contentRect: { width: 400, height: 300 } } as ResizeObserverEntry], this as never);
  }
  disconnect(): void {}
}

beforeEach(() => {
  asked.length = 0;
  held = null;
  frame = "whole";
  setActivePinia(createPinia());
  vi.stubGlobal("createImageBitmap", () => Promise.resolve({ close: () => undefined }));
  vi.stubGlobal("ResizeObserver", Sized);
  const pen = new Proxy({}, { get: () => () => undefined, set: () => true });
  vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue(pen as never);
  vi.spyOn(globalThis, "fetch").mockImplementation((path, options) => {
    asked.push({
      path: path as string,
      body: JSON.parse(options!.body as string) as Record<string, unknown>,
    });
    return held ?? Promise.resolve(shot(frame));
  });
});
afterEach(() => {
  vi.unstubAllGlobals();
});
const settled = async () => {
  for (let n = 0; n < 6; n++) await nextTick();
};
const wish = (view: string): Wish => ({
  path: `/api/scenes/${view}/picture`,
  view,
  body: () => ({ document: { name: view } }),
  state: "",
});

describe("pictures side by side", () => {
  it("each show their own, and are looked at by themselves", async () => {
    const left = viewport();
    const right = viewport();
    const wishes = reactive({ left: wish("left"), right: wish("right") });
    const page = mount(
      defineComponent({
        components: { PictureView },
        setup: () => ({ left, right, wishes, plane: { width: 4000, height: 3000 } }),
        template: `
          <PictureView :wish="wishes.left" :plane="plane" :seen="left" label="One"><i class="over" /></PictureView>
          <PictureView :wish="wishes.right" :plane="plane" :seen="right" label="Other" />`,
      }),
    );
    const views = page.findAllComponents(PictureView);
    expect(views).toHaveLength(2);
    expect(page.findAll(".over")).toHaveLength(1);
    await flushPromises();
    asked.length = 0;
    wishes.left = { ...wish("left") };
    wishes.right = { ...wish("right") };
    await settled();
    expect(asked.map((a) => a.path).sort()).toEqual([
      "/api/scenes/left/picture",
      "/api/scenes/right/picture",
    ]);
    expect(new Set(asked.map((a) => a.body.view)).size).toBe(2);

    asked.length = 0;
    left.zoom = 1;
    await settled();
    expect(asked.map((a) => a.path)).toEqual(["/api/scenes/left/picture"]);
    expect(asked[0]!.body).toMatchObject({ width: 400, height: 300 });
    expect(right.zoom).toBe(0);

    // carried by the arrows, on its own
    await views[0]!.trigger("keydown", { key: "ArrowRight" });
    expect(left.centre.x).toBeGreaterThan(0.5);
    expect(right.centre.x).toBe(0.5);
    page.unmount();
  });
});

describe("a picture that is left", () => {
  it.each([
    ["with a first look of it on its way", shot("first")],
    ["with the line down", null],
  ])("is not asked for again, %s", async (_, answer) => {
    vi.useFakeTimers();
    try {
      let tell: () => void = () => undefined;
      held = new Promise((resolve, reject) => {
        tell = () => (answer ? resolve(answer) : reject(new TypeError("no line")));
      });
      const page = mount(PictureView, {
        props: { wish: wish("one"), plane: { width: 4000, height: 3000 }, seen: viewport(), label: "One" },
      });
      await page.setProps({ wish: wish("one") });
      await settled();
      expect(asked).toHaveLength(1);
      page.unmount();
      tell();
      await settled();
      await settled();
      expect(vi.getTimerCount()).toBe(0);
      expect(asked).toHaveLength(1);
    } finally {
      vi.useRealTimers();
    }
  });
});

it("is asked for in full once the whole frame is there, and quickly until then", async () => {
  vi.useFakeTimers();
  try {
    frame = "first";
    const page = mount(PictureView, {
      props: { wish: wish("one"), plane: { width: 4000, height: 3000 }, seen: viewport(), label: "One" },
    });
    await page.setProps({ wish: wish("one") });
    asked.length = 0;
    await vi.advanceTimersByTimeAsync(3000);
    expect(asked.length).toBeGreaterThan(2);
    expect(asked.map((a) => a.body.full)).not.toContain(true);
    frame = "whole";
    await vi.advanceTimersByTimeAsync(2000);
    expect(asked.at(-1)!.body.full).toBe(true);
    asked.length = 0;
    await vi.advanceTimersByTimeAsync(5000);
    expect(asked).toEqual([]);
  } finally {
    vi.useRealTimers();
  }
});
