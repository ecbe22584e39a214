/** How the picture is looked at: nothing in here changes the scene. */
import { useLocalStorage } from "@vueuse/core";
import { defineStore } from "pinia";
import { ref, shallowRef, toRef } from "vue";

import type { Spot } from "../model/plane";
import type { MaskLook } from "../model/tint";
import { viewport } from "../picture/viewport";

export type Surround = "grey" | "white" | "black";
/** What the picture is judged on. */
export const SURROUNDS: Record<Surround, string> = {
  grey: "Grey, as a print is judged",
  white: "Paper white",
  black: "Black",
};
/** Tools that take the colour of a patch. */
export const PICKERS = ["sample", "unsample", "spare", "hue", "tone"];
export const useView = defineStore("view", () => {
  /** What of the picture is seen. */
  const seen = viewport();
  const zoom = toRef(seen, "zoom");
  const centre = toRef(seen, "centre");
  /** How one looks at pictures stays from one evening to the next. */
  const surround = useLocalStorage<Surround>("sun-latch-surround", "grey");
  /** The check that is looked through; "" is none. */
  const comparing = ref("");
  const pinned = ref(false);
  const look = useLocalStorage<MaskLook>("sun-latch-mask", "tint");
  /** Where one is on the path. */
  const station = ref("Light");
  /** What is in hand (tools/); "" is nothing. */
  const tool = ref("");
  /** A latch pointed at on the shelf. */
  const peek = ref("");
  /** Where a colour that is picked in the picture goes. */
  const tone = shallowRef<(hex: string) => void>(() => undefined);
  /** The patch a colour was taken from last, its width in long edges of the picture, and the colour. */
  const taken = shallowRef<{ at: Spot; across: number; shown: string } | null>(null);
  /** The place something is wrong with. */
  const wrong = ref<Spot | null>(null);
  /** Something drawn for a move: where it acts is shown. */
  const zone = shallowRef<{ move: string; n: number } | null>(null);
  const guide = useLocalStorage("sun-latch-guides", "thirds");
  /** The frame of a join that is pointed at, by number; −1 is none. */
  const member = ref(-1);
  /** Whether the places are shown at which pairs of a sweep fit the least. */
  const fits = ref(false);
  /** The frame of a join that is painted in, by its source. */
  const framing = ref("");
  /** Where the two loupes look, fractions of the picture. */
  const loupes = ref<[Spot, Spot]>([
    { x: 0.3, y: 0.75 },
    { x: 0.65, y: 0.3 },
  ]);
  /** All checks on one sheet. */
  const sheet = ref(false);
  const spot = ref("");
  /** What the opened latch says of the place under the pointer. */
  const why = shallowRef<{ ingredients: Record<string, number>; result: number } | null>(null);
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
    seen, zoom, centre, surround, comparing, pinned, look, station, tool, peek, tone, taken, wrong, zone, guide, member, fits, framing, loupes, sheet, spot, why, waiting,
    turnSurround, letGo,
  }; // prettier-ignore
});
