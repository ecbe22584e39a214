import { beforeEach, describe, expect, it, vi } from "vitest";

import { PointerLayer, type Below } from "./pointer";

const element = { getBoundingClientRect: () => ({ left: 100, top: 50 }) } as HTMLElement;
let below: { [K in keyof Below]: ReturnType<typeof vi.fn> };
let layer: PointerLayer;
let now = 10_000;

function event(x: number, y: number, more: Partial<PointerEvent> = {}): PointerEvent {
  return {
    clientX: x + 100, clientY: y + 50, pointerId: 1, pointerType: "mouse", button: 0, pressure: 0.5,
    shiftKey: false, timeStamp: (now += 16), preventDefault: () => undefined, ...more,
  } as PointerEvent; // prettier-ignore
}
const finger = (id: number, x: number, y: number) => event(x, y, { pointerId: id, pointerType: "touch" });
const pen = (x: number, y: number) => event(x, y, { pointerId: 9, pointerType: "pen", pressure: 0.3 });

beforeEach(() => {
  below = {
    down: vi.fn(() => true), move: vi.fn(), up: vi.fn(), cancel: vi.fn(), hover: vi.fn(), panBy: vi.fn(), zoomBy: vi.fn(), scaleBy: vi.fn(),
  }; // prettier-ignore
  layer = new PointerLayer(() => element, below as unknown as Below);
  now += 10_000;
});

describe("a mouse", () => {
  it("draws with what is in hand", () => {
    layer.down(event(10, 20));
    layer.move(event(12, 22));
    layer.up(event(12, 22));
    expect(below.down.mock.calls[0]![0].stage).toEqual({ x: 10, y: 20 });
    expect(below.move.mock.calls[0]![0]).toMatchObject({ stage: { x: 12, y: 22 }, pressure: 1 });
    expect(below.up).toHaveBeenCalledOnce();
    expect(below.panBy).not.toHaveBeenCalled();
  });
  it("carries the picture where nothing is in hand", () => {
    below.down.mockReturnValue(false);
    layer.down(event(10, 20));
    layer.move(event(15, 18));
    expect(below.panBy).toHaveBeenCalledWith({ x: 5, y: -2 });
  });
  it.each(["middle", "space"])("carries it with the %s, whatever is in hand", (how) => {
    layer.spaced(how === "space");
    layer.down(event(0, 0, { button: how === "middle" ? 1 : 0 }));
    layer.move(event(4, 0));
    expect(below.down).not.toHaveBeenCalled();
    expect(below.panBy).toHaveBeenCalledWith({ x: 4, y: 0 });
  });
  it("does nothing with its other button", () => {
    layer.down(event(0, 0, { button: 2 }));
    layer.move(event(4, 0));
    expect(below.down).not.toHaveBeenCalled();
    expect(below.panBy).not.toHaveBeenCalled();
  });
  it("hovers while nothing is held, and leaves", () => {
    layer.move(event(7, 7));
    layer.left();
    expect(below.hover.mock.calls.map((c) => c[0]?.stage ?? null)).toEqual([{ x: 7, y: 7 }, null]);
  });
});

describe("Escape in mid-stroke", () => {
  it("draws nothing, and nothing more until the pointer comes up and is pressed again", () => {
    layer.down(event(10, 20));
    layer.move(event(12, 22));
    expect(layer.leave()).toBe(true);
    expect(below.cancel).toHaveBeenCalledOnce();
    layer.move(event(40, 50));
    layer.up(event(40, 50));
    expect(below.move).toHaveBeenCalledOnce();
    expect(below.up).not.toHaveBeenCalled();
    expect(below.panBy).not.toHaveBeenCalled();
    layer.move(event(41, 50));
    expect(below.hover).toHaveBeenCalledOnce();
    layer.down(event(10, 20));
    layer.up(event(10, 20));
    expect(below.up).toHaveBeenCalledOnce();
  });
  it("is nothing to a picture that is carried", () => {
    below.down.mockReturnValue(false);
    layer.down(event(0, 0));
    expect(layer.leave()).toBe(false);
    layer.move(event(5, 0));
    expect(below.panBy).toHaveBeenCalledOnce();
  });
});

describe("fingers", () => {
  it("carry and enlarge together, and what one had begun is nothing", () => {
    layer.down(finger(1, 100, 100));
    layer.move(finger(1, 102, 100));
    layer.down(finger(2, 200, 100));
    expect(below.cancel).toHaveBeenCalledOnce();
    layer.move(finger(2, 302, 100));
    expect(below.panBy).toHaveBeenCalledWith({ x: 51, y: 0 });
    const [factor, on] = below.scaleBy.mock.calls[0]!;
    expect(factor).toBeCloseTo(200 / 98); // about twice as large
    expect(on).toEqual({ x: 202, y: 100 });
    layer.up(finger(2, 302, 100));
    layer.move(finger(1, 110, 100));
    layer.up(finger(1, 110, 100));
    expect(below.up).not.toHaveBeenCalled();
    expect(below.move).toHaveBeenCalledOnce();
  });
  it("that the system takes away have drawn nothing", () => {
    layer.down(finger(1, 0, 0));
    layer.move(finger(1, 5, 5));
    layer.cancelled(finger(1, 5, 5));
    expect(below.cancel).toHaveBeenCalledOnce();
    layer.up(finger(1, 5, 5));
    expect(below.up).not.toHaveBeenCalled();
  });
});

describe("a pen", () => {
  it("says how hard it is pressed", () => {
    layer.down(pen(1, 1));
    expect(below.down.mock.calls[0]![0].pressure).toBeCloseTo(0.3);
  });
  it("is not disturbed by the palm beside it, before, while and just after", () => {
    layer.down(finger(3, 300, 300)); // the palm comes first
    layer.down(pen(10, 10));
    expect(below.cancel).toHaveBeenCalledOnce();
    layer.down(finger(4, 320, 310));
    layer.move(finger(4, 360, 330));
    layer.move(pen(20, 20));
    layer.up(pen(20, 20));
    layer.down(finger(5, 320, 310));
    expect(below.panBy).not.toHaveBeenCalled();
    expect(below.zoomBy).not.toHaveBeenCalled();
    expect(below.down).toHaveBeenCalledTimes(2); // the palm's, which was dropped, and the pen's
    expect(below.up).toHaveBeenCalledOnce();
    now += 5000;
    layer.down(finger(6, 1, 1));
    expect(below.down).toHaveBeenCalledTimes(3);
  });
});

describe("the wheel", () => {
  const wheel = (more: Partial<WheelEvent>) =>
    ({
      clientX: 150,
      clientY: 60,
      deltaX: 0,
      deltaY: 0,
      deltaMode: 0,
      ctrlKey: false,
      ...more,
    }) as WheelEvent;
  it("zooms about the pointer, by lines as by px", () => {
    layer.wheel(wheel({ deltaY: 48 }));
    layer.wheel(wheel({ deltaY: 3, deltaMode: 1 }));
    expect(below.zoomBy.mock.calls).toEqual([
      [48, { x: 50, y: 10 }],
      [48, { x: 50, y: 10 }],
    ]);
  });
  it("of a trackpad pinches with Control, and carries sideways", () => {
    layer.wheel(wheel({ deltaY: -4, ctrlKey: true }));
    layer.wheel(wheel({ deltaX: 9, deltaY: 2 }));
    expect(below.zoomBy.mock.calls[0]![0]).toBe(-20);
    expect(below.panBy).toHaveBeenCalledWith({ x: -9, y: 0 });
  });
});
