import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { effectScope, type EffectScope } from "vue";

import { useScene } from "../stores/scene";
import { useHeld } from "./held";

describe("a key held down", () => {
  let done: ReturnType<typeof vi.fn<() => void>>;
  let scope: EffectScope;
  let held: ReturnType<typeof useHeld>;
  beforeEach(() => {
    setActivePinia(createPinia());
    done = vi.fn<() => void>();
    scope = effectScope();
    held = scope.run(() => useHeld())!;
  });
  const press = () => held.pressed(done);
  const key = (type: string, name: string) =>
    document.body.dispatchEvent(new KeyboardEvent(type, { key: name, bubbles: true }));

  it("is done once, when it comes up, wherever that is", () => {
    press();
    press();
    expect(done).not.toHaveBeenCalled();
    key("keyup", "Shift");
    expect(done).not.toHaveBeenCalled();
    key("keyup", "ArrowUp");
    key("keyup", "ArrowUp");
    expect(done).toHaveBeenCalledTimes(1);
  });
  it.each([
    [
      "Tab takes the focus elsewhere",
      () => document.body.dispatchEvent(new Event("focusout", { bubbles: true })),
    ],
    ["another window comes to the front", () => window.dispatchEvent(new Event("blur"))],
    ["the page is hidden", () => document.dispatchEvent(new Event("visibilitychange"))],
    ["its control goes away", () => scope.stop()],
  ])("is done when %s", (_, leave) => {
    press();
    leave();
    expect(done).toHaveBeenCalledTimes(1);
    key("keyup", "ArrowUp");
    expect(done).toHaveBeenCalledTimes(1);
  });
  it("is taken back by Escape", () => {
    const scene = useScene();
    const restore = vi.spyOn(scene, "restore").mockImplementation(() => undefined);
    scene.dragging = true;
    press();
    key("keydown", "Escape");
    key("keyup", "ArrowUp");
    expect(done).not.toHaveBeenCalled();
    expect(restore).toHaveBeenCalledTimes(1);
  });
});
