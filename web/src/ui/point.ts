/** Pointing that somebody meant: what comes to lie under a pointer at rest, because a sheet above it closed, is not pointed at. */
import type { Directive } from "vue";

type Pointed = (on: boolean) => void;

/** Where the pointer last was; written after the elements below it have been told of a move. */
const at = { x: NaN, y: NaN };
for (const kind of ["pointermove", "pointerdown"] as const)
  window.addEventListener(kind, (e) => Object.assign(at, { x: e.clientX, y: e.clientY }));
const moved = (e: PointerEvent) => e.clientX !== at.x || e.clientY !== at.y;

const tell = new WeakMap<HTMLElement, Pointed>();

/** `v-point="(on) => …"`: told when the pointer comes onto the element by its own movement, and when it leaves. */
export const vPoint: Directive<HTMLElement, Pointed> = {
  mounted(element, { value }) {
    let on = false;
    const set = (now: boolean) => {
      if (now !== on) tell.get(element)?.((on = now));
    };
    tell.set(element, value);
    element.addEventListener("pointerenter", (e) => moved(e) && set(true));
    element.addEventListener("pointermove", (e) => moved(e) && set(true));
    element.addEventListener("pointerleave", () => set(false));
  },
  updated: (element, { value }) => void tell.set(element, value),
};
