/** How the picture is looked at: nothing in here changes the scene. */
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import type { Spot } from "../model/plane";
import type { MaskLook } from "../model/tint";

export type Surround = "grey" | "white" | "black";
export type Station = "Ground" | "Light";
export type Comparing =
  | ""
  | "line"
  | "start"
  | "cropped"
  | "untouched"
  | "mask"
  | "pushed"
  | "limits"
  | "borders"
  | "squint"
  | "halos";
/** What the pointer does on the picture instead of panning. */
export type Tool =
  | ""
  | "neutral"
  | "upright"
  | "level"
  | "horizon"
  | "turn"
  | "sample"
  | "unsample"
  | "paint"
  | "erase"
  | "seek"
  | "mark"
  | "unmark"
  | "box"
  | "corner"
  | "spare"
  | "kin"
  | "hue"
  | "tone"
  | "wrong";
/** Tools that take the colour of a patch. */
export const PICKERS: Tool[] = ["sample", "unsample", "spare", "hue", "tone"];
/** Tools that lay strokes down. */
export const BRUSHES: Tool[] = ["paint", "erase", "seek", "mark", "unmark"];

interface Comparison {
  key: string;
  what: Comparing;
  label: string;
  said: string;
  at?: Station;
}
export const COMPARISONS: Comparison[] = [
  { key: "1", what: "line", label: "Without this line", said: "Without the open line" },
  { key: "2", what: "start", label: "Start", said: "Start: Ground only, no Light moves", at: "Light" },
  { key: "2", what: "cropped", label: "Start", said: "Start, with today's crop", at: "Ground" },
  { key: "3", what: "untouched", label: "Untouched", said: "The frame as it came" },
  { key: "4", what: "mask", label: "Mask", said: "Where it holds; m for another look", at: "Light" },
  { key: "4", what: "mask", label: "Mask", said: "Where Crispness acts; m for another look", at: "Ground" },
  { key: "5", what: "pushed", label: "Pushed", said: "Colour pushed four times, to see casts", at: "Ground" },
  {
    key: "6",
    what: "limits",
    label: "Limits",
    said: "What prints at full, or at nothing, per channel",
    at: "Ground",
  },
  { key: "5", what: "squint", label: "Squint", said: "Small and blurred: where the eye goes", at: "Light" },
  { key: "6", what: "halos", label: "Halos", said: "Rims along strong edges", at: "Light" },
  { key: "7", what: "borders", label: "Borders", said: "The four edges, magnified", at: "Ground" },
];
export const PUSH = 4;

export const useView = defineStore("view", () => {
  const zoom = ref(0);
  const centre = ref<Spot>({ x: 0.5, y: 0.5 });
  const surround = ref<Surround>("grey");
  const comparing = ref<Comparing>("");
  const pinned = ref(false);
  const look = ref<MaskLook>("tint");
  const station = ref<Station>("Light");
  const comparisons = computed(() => COMPARISONS.filter((c) => !c.at || c.at === station.value));
  const tool = ref<Tool>("");
  /** Where a colour that is picked in the picture goes. */
  const tone = shallowRef<(hex: string) => void>(() => undefined);
  /** The patch a colour was taken from last, its width in long edges of the picture, and the colour. */
  const taken = shallowRef<{ at: Spot; across: number; shown: string } | null>(null);
  /** The place something is wrong with. */
  const wrong = ref<Spot | null>(null);
  /** Something drawn for a move: where it acts is shown. */
  const zone = shallowRef<{ move: string; n: number } | null>(null);
  const guide = ref("thirds");
  /** Where the two loupes look, fractions of the picture. */
  const loupes = ref<[Spot, Spot]>([
    { x: 0.3, y: 0.75 },
    { x: 0.65, y: 0.3 },
  ]);
  const facts = ref(false);
  const keys = ref(false);
  const exporting = ref(false);
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
    zoom, centre, surround, comparing, pinned, look, station, comparisons, tool, tone, taken, wrong, zone, guide, loupes, facts, keys, exporting, spot, why, waiting,
    turnSurround, letGo,
  }; // prettier-ignore
});
