/** The pointer on a picture: who is pointed at with, and whether it draws or moves the picture. Known here once: mouse,
 * pen, fingers, a palm, the wheel, a trackpad, and what the system takes away. */
import type { Spot } from "../model/plane";

/** Where a pointer is. stage: px; pressure: of a pen, else 1. */
export interface Place {
  stage: Spot;
  shift: boolean;
  pressure: number;
  /** Places since the last one that the browser kept back, this one among them. */
  between: { stage: Spot; pressure: number }[];
}
/** What lies below: it draws, where something is in hand, or the picture is carried and zoomed. */
export interface Below {
  /** Begin to draw; false where nothing is in hand, so that the picture is carried. */
  down(at: Place): boolean;
  move(at: Place): void;
  up(at: Place): void;
  /** Nothing was drawn. */
  cancel(): void;
  /** Passing over, nothing held; null: it has left. */
  hover(at: Place | null): void;
  panBy(by: Spot): void;
  /** By so many px of a wheel, about a place of the stage. */
  zoomBy(delta: number, on: Spot): void;
  /** So many times as large. */
  scaleBy(factor: number, on: Spot): void;
}

/** A hand that rests on the screen while a pen draws, and this long after, ms, is no finger. */
const PALM = 700;
/** A trackpad's pinch comes as a wheel with Control held, in small steps. */
const PINCHED = 5;

/** spent: it is still pressed, and does nothing more until it comes up. */
type Doing = "" | "drawing" | "panning" | "pinching" | "spent";

export class PointerLayer {
  private readonly down_ = new Map<number, Spot>();
  private doing: Doing = "";
  private penAt = -Infinity;
  private space = false;

  constructor(
    private readonly stage: () => HTMLElement,
    private readonly below: Below,
  ) {}

  /** The picture is carried whatever is in hand while this is held. */
  spaced(held: boolean): void {
    this.space = held;
  }

  down(e: PointerEvent): void {
    if (this.palm(e)) return;
    if (e.pointerType === "pen") {
      this.penAt = e.timeStamp;
      if (this.doing) this.drop(); // what the palm did before the pen came is nothing
      this.down_.clear();
    }
    this.down_.set(e.pointerId, this.at(e));
    this.stage().setPointerCapture?.(e.pointerId);
    if (this.down_.size === 2 && e.pointerType === "touch") {
      this.drop();
      this.doing = "pinching";
    } else if (this.down_.size > 1) return;
    else if (e.button === 1 || this.space) {
      e.preventDefault();
      this.doing = "panning";
    } else if (e.button === 0) this.doing = this.below.down(this.place(e)) ? "drawing" : "panning";
    else this.down_.delete(e.pointerId);
  }

  move(e: PointerEvent): void {
    if (this.palm(e)) return;
    if (e.pointerType === "pen") this.penAt = e.timeStamp;
    const before = this.down_.get(e.pointerId);
    if (!before) {
      if (!this.down_.size) this.below.hover(this.place(e));
      return;
    }
    const now = this.at(e);
    if (this.doing === "pinching") this.pinch(e.pointerId, before, now);
    else if (this.doing === "panning") this.below.panBy({ x: now.x - before.x, y: now.y - before.y });
    else if (this.doing === "drawing") this.below.move(this.place(e));
    this.down_.set(e.pointerId, now);
  }

  up(e: PointerEvent): void {
    if (!this.down_.delete(e.pointerId)) return;
    if (e.pointerType === "pen") this.penAt = e.timeStamp;
    if (this.doing === "drawing") this.below.up(this.place(e));
    // of two fingers one stays: it draws nothing
    if (!this.down_.size) this.doing = "";
    else if (this.doing === "pinching") this.doing = "panning";
  }

  /** The system took the pointer away: nothing was drawn, nothing carried. */
  cancelled(e: PointerEvent): void {
    if (!this.down_.delete(e.pointerId)) return;
    this.drop();
    if (!this.down_.size) this.doing = "";
  }

  /** What is being drawn is nothing (Escape); the pointer does nothing more until it comes up. True where something was. */
  leave(): boolean {
    if (this.doing !== "drawing") return false;
    this.below.cancel();
    this.doing = "spent";
    return true;
  }

  left(): void {
    if (!this.down_.size) this.below.hover(null);
  }

  wheel(e: WheelEvent): void {
    const px = e.deltaMode === WheelEvent.DOM_DELTA_LINE ? 16 : 1;
    if (!e.ctrlKey && Math.abs(e.deltaX) > Math.abs(e.deltaY)) this.below.panBy({ x: -e.deltaX * px, y: 0 });
    else this.below.zoomBy(e.deltaY * px * (e.ctrlKey ? PINCHED : 1), this.at(e));
  }

  private palm(e: PointerEvent): boolean {
    return e.pointerType === "touch" && e.timeStamp - this.penAt < PALM;
  }

  private drop(): void {
    if (this.doing === "drawing") this.below.cancel();
    this.doing = "";
  }

  /** Two fingers carry the picture, and draw it larger by as much as they part. */
  private pinch(moved: number, before: Spot, now: Spot): void {
    const other = [...this.down_].find(([id]) => id !== moved)?.[1];
    if (!other) return;
    const apart = (p: Spot) => Math.max(8, Math.hypot(p.x - other.x, p.y - other.y));
    this.below.panBy({ x: (now.x - before.x) / 2, y: (now.y - before.y) / 2 });
    const middle = { x: (now.x + other.x) / 2, y: (now.y + other.y) / 2 };
    this.below.scaleBy(apart(now) / apart(before), middle);
  }

  private at(e: { clientX: number; clientY: number }): Spot {
    const box = this.stage().getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  }

  private place(e: PointerEvent): Place {
    // a mouse knows no pressure and says 0.5
    const pressed = (p: PointerEvent) => (p.pointerType === "pen" ? Math.max(0.05, p.pressure) : 1);
    const some = e.getCoalescedEvents?.() ?? [];
    return {
      stage: this.at(e),
      shift: e.shiftKey,
      pressure: pressed(e),
      between: (some.length ? some : [e]).map((p) => ({ stage: this.at(p), pressure: pressed(p) })),
    };
  }
}
