/** A finished picture teaches best: its lines that say why they are there, one after the other, each with and without. */
import { defineStore } from "pinia";
import { computed, ref, watch } from "vue";

import { sentence, type Values } from "../model/wording";
import { useScene } from "./scene";
import { useView } from "./view";

/** What a line holds is shown for so long, ms, when one comes to it. */
const SHOWN = 1400;

export const useTour = defineStore("tour", () => {
  const scene = useScene();
  const view = useView();
  const steps = computed(() => scene.moves.filter((m) => m.on && m.note));
  /** The step one is at; −1 while nobody is led. */
  const at = ref(-1);
  const step = computed(() => steps.value[at.value] ?? null);
  const says = computed(() => {
    const move = step.value;
    const kind = scene.lightKinds.find((k) => k.kind === move?.kind);
    if (!move || !kind) return null;
    const latch = scene.nameOf(move.latch);
    return {
      line: sentence(kind, move.params as Values) + (latch ? ` on ${latch}` : ""),
      why: move.note ?? "",
    };
  });
  const without = computed(() => view.comparing === "line");

  function go(to: number): void {
    at.value = Math.max(0, Math.min(to, steps.value.length - 1));
    view.letGo();
    scene.openLatch = null;
    scene.openMove = step.value?.id ?? null;
    // where it acts is seen first, then what it does
    const { latch } = step.value ?? {};
    if (!latch) return;
    view.peek = latch;
    window.setTimeout(() => view.peek === latch && (view.peek = ""), SHOWN);
  }
  /** The picture without the step, and with it again. */
  function toggle(): void {
    if (without.value) return view.letGo();
    view.peek = "";
    view.comparing = "line";
    view.pinned = true;
  }
  function end(): void {
    at.value = -1;
    view.peek = "";
    view.letGo();
  }
  watch(
    () => [scene.opened?.id, view.station],
    () => at.value >= 0 && end(),
  );
  return { steps, at, says, without, go, toggle, end };
});
