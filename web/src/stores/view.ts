/** How the picture is looked at: nothing in here changes the scene. */
import { defineStore } from "pinia";
import { ref } from "vue";

import type { Spot } from "../model/plane";
import type { MaskLook } from "../model/tint";

export type Surround = "grey" | "white" | "black";
export type Comparing = "" | "line" | "start" | "untouched" | "mask";

export const COMPARISONS: { key: string; what: Comparing; label: string; said: string }[] = [
  { key: "1", what: "line", label: "Without this line", said: "Without the open line" },
  { key: "2", what: "start", label: "Start", said: "Start: Ground only, no Light moves" },
  { key: "3", what: "untouched", label: "Untouched", said: "The frame as it came" },
  { key: "4", what: "mask", label: "Mask", said: "Where it holds" },
];

export const useView = defineStore("view", () => {
  const zoom = ref(0);
  const centre = ref<Spot>({ x: 0.5, y: 0.5 });
  const surround = ref<Surround>("grey");
  const comparing = ref<Comparing>("");
  const pinned = ref(false);
  const look = ref<MaskLook>("tint");
  const pointing = ref<"" | "neutral">("");
  const facts = ref(false);
  const keys = ref(false);
  const exporting = ref(false);
  const spot = ref("");
  /** What the stage is still waiting for, in words; empty when the picture is current. */
  const waiting = ref("");

  function turnSurround(): void {
    const order: Surround[] = ["grey", "white", "black"];
    surround.value = order[(order.indexOf(surround.value) + 1) % 3]!;
  }
  function letGo(): void {
    comparing.value = "";
    pinned.value = false;
  }
  return {
    zoom, centre, surround, comparing, pinned, look, pointing, facts, keys, exporting, spot, waiting,
    turnSurround, letGo,
  }; // prettier-ignore
});
