import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { effectScope } from "vue";

import { useScene } from "../stores/scene";
import { useDrag } from "./drag";

const at = (x: number, y = 0) =>
  ({ button: 0, clientX: x, clientY: y, pointerId: 1, currentTarget: { setPointerCapture: () => undefined }, stopPropagation: () => undefined }) as unknown as PointerEvent; // prettier-ignore
const press = (key: string) => window.dispatchEvent(new KeyboardEvent("keydown", { key }));

describe("a drag", () => {
  const said: string[] = [];
  let restore: ReturnType<typeof vi.spyOn>;
  let drag: ReturnType<typeof useDrag<number>>;
  beforeEach(() => {
    setActivePinia(createPinia());
    said.length = 0;
    restore = vi.spyOn(useScene(), "restore").mockImplementation(() => undefined);
    drag = effectScope().run(() =>
      useDrag<number>({
        begin: () => 5,
        move: (held, _e, dx) => said.push(`move ${held + dx}`),
        done: (held) => said.push(`done ${held}`),
        click: () => said.push("click"),
      }),
    )!;
  });

  it("moves from where it began, and is done once", () => {
    drag.down(at(100));
    drag.move(at(110));
    drag.move(at(90));
    drag.up();
    drag.move(at(200));
    drag.up();
    expect(said).toEqual(["move 15", "move -5", "done 5"]);
  });
  it("is a click while it stays within the slack", () => {
    drag.down(at(100));
    drag.move(at(101));
    drag.up();
    expect(said).toEqual(["click"]);
  });
  it("is taken back by Escape, and what the pointer still does is ignored", () => {
    drag.down(at(100));
    drag.move(at(120));
    press("Escape");
    drag.move(at(140));
    drag.up();
    expect(said).toEqual(["move 25"]);
    expect(restore).toHaveBeenCalledTimes(1);
    press("Escape");
    expect(restore).toHaveBeenCalledTimes(1);
  });
  it("is taken back where the system takes the pointer away", () => {
    const cancel = (pointerId: number) =>
      window.dispatchEvent(Object.assign(new Event("pointercancel"), { pointerId }));
    drag.down(at(100));
    drag.move(at(120));
    cancel(7); // another finger's
    expect(restore).not.toHaveBeenCalled();
    cancel(1);
    drag.move(at(140));
    drag.up();
    expect(said).toEqual(["move 25"]);
    expect(restore).toHaveBeenCalledTimes(1);
  });
  it("leaves the other buttons alone", () => {
    drag.down({ ...at(100), button: 2 } as PointerEvent);
    drag.move(at(150));
    expect(said).toEqual([]);
  });
});
