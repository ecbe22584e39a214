import { flushPromises, mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import { beforeEach, expect, it, vi } from "vitest";

import { useScene } from "../stores/scene";
import BordersCheck from "./BordersCheck.vue";

let answer: (marks: unknown) => void;
beforeEach(() => {
  vi.restoreAllMocks();
  setActivePinia(createPinia());
  vi.spyOn(globalThis, "fetch").mockRejectedValue(new Error("no line"));
  const scene = useScene();
  scene.opened = { id: "s" } as never;
  scene.document = { moves: [] } as never;
  vi.spyOn(scene, "plane", "get").mockReturnValue({ width: 300, height: 200 } as never);
  scene.find = vi.fn(() => new Promise((resolve) => (answer = resolve))) as never;
});
const shown = () => mount(BordersCheck, { props: { stage: { width: 800, height: 600 } } });

it.each([
  [[], "Nothing along the edges"],
  [null, "could not be measured"],
  [[{ side: "top", what: "bright", start: 0, end: 0.1, much: 12 }], "top: brighter"],
])("says nothing of the edges before it is known: %j", async (marks, said) => {
  const check = shown();
  await flushPromises();
  expect(check.text()).toContain("Measuring");
  expect(check.text()).not.toContain("Nothing");
  answer(marks);
  await flushPromises();
  expect(check.text()).toContain(said);
});
