/** Where a tool would point, without a pointer: the arrow keys aim, Enter acts there. */
import { ref, type Ref } from "vue";

import type { Spot } from "../model/plane";
import { useView } from "../stores/view";
import type { Tool } from "../tools/tool";

const STEPS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
const MIDDLE = { x: 0.5, y: 0.5 };

/** `read`: what there is to be told of a place that is aimed at. */
export function useAiming(tool: Readonly<Ref<Tool | undefined>>, read: (at: Spot) => void) {
  const view = useView();
  const aim = ref<Spot | null>(null);
  function aiming(e: KeyboardEvent): void {
    if (!view.tool || !(e.target as HTMLElement).classList.contains("stage")) return;
    const step = STEPS[e.key];
    if (step) {
      const from = aim.value ?? MIDDLE;
      const by = e.shiftKey ? 0.002 : 0.02;
      const within = (v: number) => Math.min(1, Math.max(0, v));
      aim.value = { x: within(from.x + step[0] * by), y: within(from.y + step[1] * by) };
      read(aim.value);
      e.preventDefault();
    } else if (e.key === "Enter") tool.value?.key?.(aim.value ?? MIDDLE, e.shiftKey);
  }
  return { aim, aiming };
}
