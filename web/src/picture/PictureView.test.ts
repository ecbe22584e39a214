import { mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { defineComponent, nextTick, reactive, ref } from "vue";

import { Refusal } from "../api/client";
import PictureView from "./PictureView.vue";
import type { Wish } from "./shown";
import { viewport } from "./viewport";

const asked: { path: string; body: Record<string, unknown> }[] = [];
vi.mock("../api/client", () => ({
  Refusal: class extends Error {},
  picture: vi.fn((path: string, body: Record<string, unknown>) => {
    asked.push({ path, body });
    return held ?? Promise.resolve({ blob: new Blob(), whole: true, map: null });
  }),
}));
vi.mock("@vueuse/core", async (original) => ({
  ...(await original<object>()),
  useElementSize: () => ({ width: ref(400), height: ref(300) }),
}));
/** An answer that is held back. */
let held: Promise<object> | null = null;
const drawn: unknown[] = [];
vi.mock("./overlaid", () => ({ draw: (...of: unknown[]) => drawn.push(of) }));

beforeEach(() => {
  asked.length = drawn.length = 0;
  held = null;
  setActivePinia(createPinia());
  vi.stubGlobal("createImageBitmap", () => Promise.resolve({ close: () => undefined }));
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
    ["with a first look of it on its way", { blob: new Blob(), whole: false, map: null }],
    ["with the line down", null],
  ])("is not asked for again, %s", async (_, answer) => {
    vi.useFakeTimers();
    try {
      let tell: () => void = () => undefined;
      held = new Promise((resolve, reject) => {
        tell = () =>
          answer ? resolve(answer) : reject(Object.assign(new Refusal("no line", 0), { status: 0 }));
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
