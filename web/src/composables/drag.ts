/** One pointer drag on a handle: captured, told apart from a click, and taken back by Escape or where the system takes the
 * pointer away. */
import { onScopeDispose } from "vue";

import { useScene } from "../stores/scene";

interface Handling<Held> {
  /** What the drag begins with; null declines it. */
  begin: (e: PointerEvent) => Held | null;
  /** The pointer is at `e`, (dx, dy) px from where it went down. */
  move: (held: Held, e: PointerEvent, dx: number, dy: number) => void;
  /** Let go after a real drag. */
  done: (held: Held) => void;
  /** Let go without having moved. */
  click?: (held: Held) => void;
}

const SLACK = 3;

export function useDrag<Held>(on: Handling<Held>) {
  const scene = useScene();
  let now: { held: Held; x: number; y: number; moved: boolean; pointer: number } | null = null;

  function escape(e: KeyboardEvent): void {
    if (e.key !== "Escape" || !now) return;
    e.stopPropagation();
    takeBack();
  }
  function letGo(): void {
    now = null;
    window.removeEventListener("keydown", escape, true);
    window.removeEventListener("pointercancel", cancelled, true);
  }
  /** The system took the pointer away (a palm, a gesture, a call): as if nothing had been dragged. */
  function cancelled(e: PointerEvent): void {
    if (now && e.pointerId === now.pointer) takeBack();
  }
  function takeBack(): void {
    if (now?.moved) scene.restore();
    letGo();
  }
  function down(e: PointerEvent): void {
    if (e.button !== 0) return;
    const held = on.begin(e);
    if (held === null) return;
    e.stopPropagation();
    now = { held, x: e.clientX, y: e.clientY, moved: false, pointer: e.pointerId };
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    window.addEventListener("keydown", escape, true);
    window.addEventListener("pointercancel", cancelled, true);
  }
  function move(e: PointerEvent): void {
    if (!now) return;
    const dx = e.clientX - now.x;
    const dy = e.clientY - now.y;
    if (!now.moved && Math.hypot(dx, dy) < SLACK) return;
    now.moved = true;
    on.move(now.held, e, dx, dy);
  }
  function up(): void {
    if (!now) return;
    const { held, moved } = now;
    letGo();
    if (moved) on.done(held);
    else on.click?.(held);
  }
  onScopeDispose(letGo);
  return { down, move, up };
}
