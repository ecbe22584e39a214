/** What is reshaped and nudged: handles and strokes go straight into the document, the picture follows. */
import { defineStore } from "pinia";
import { computed, ref } from "vue";

import type { Spot } from "../model/plane";
import {
  flatOf,
  inOrder,
  placesOf,
  short,
  type AnyShape,
  type NudgeLine,
  type NudgeStroke,
  type ReshapeLine,
} from "../model/shapes";
import { within } from "../model/wording";
import { defaults } from "./scene/lines";
import { useScene } from "./scene";

/** Pins of a grid, across and down. */
const GRID: [number, number] = [6, 4];

export const useShape = defineStore("shape", () => {
  const scene = useScene();
  const shapes = computed(() => (scene.document?.shapes ?? []) as AnyShape[]);
  const open = computed(() => shapes.value.find((s) => s.id === scene.openMove) ?? null);
  /** How far each part is stretched, shown on the picture. */
  const measured = ref(false);
  const set = ref<Record<string, unknown>>({});
  const brush = computed(() => {
    const fields = scene.vocabulary?.nudge_brush ?? [];
    return Object.fromEntries(fields.map((f) => [f.name, set.value[f.name] ?? f.default])) as {
      verb: NudgeStroke["verb"];
      radius: number;
      strength: number;
    };
  });
  function setBrush(name: string, value: unknown): void {
    const field = scene.vocabulary?.nudge_brush.find((f) => f.name === name);
    if (!field) return;
    set.value = { ...set.value, [name]: typeof value === "number" ? within(field, value) : value };
  }

  function fresh<T extends AnyShape>(kind: T["kind"], more: object): T {
    const declared = scene.vocabulary!.moves.find((k) => k.kind === kind)!;
    const line = {
      kind, revision: declared.revision, id: crypto.randomUUID(), on: true, name: "", params: defaults(declared), ...more,
    }; // prettier-ignore
    (scene.document!.shapes ??= []).push(line as never);
    scene.openMove = line.id;
    return shapes.value.at(-1) as T;
  }
  /** The line of Reshape that is open, else the last one, else a new one. */
  function reshape(): ReshapeLine {
    const held = open.value ?? shapes.value.findLast((s) => s.kind === "reshape");
    if (held?.kind !== "reshape") return fresh<ReshapeLine>("reshape", { pins: [], lines: [], pulled: [] });
    scene.openMove = held.id;
    return held;
  }
  function nudge(): NudgeLine {
    const last = open.value ?? shapes.value.at(-1);
    if (last?.kind !== "nudge") return fresh<NudgeLine>("nudge", { strokes: [] });
    scene.openMove = last.id;
    return last;
  }
  /** A place more along a line that should be straight; `n`: which line of it, a new one where there is none. */
  function alongLine(at: Spot[], n: number): number {
    const line = reshape();
    const held = line.lines[n];
    const points = flatOf(inOrder([...(held ? placesOf(held.points) : []), ...at]));
    if (held) held.points = points;
    else line.lines.push({ points, what: "straight" });
    return held ? n : line.lines.length - 1;
  }
  function pin(at: Spot): { line: ReshapeLine; n: number } {
    const line = reshape();
    line.pins.push({ x: short(at.x), y: short(at.y), dx: 0, dy: 0 });
    return { line, n: line.pins.length - 1 };
  }
  function grid(line: ReshapeLine): void {
    const [across, down] = GRID;
    for (let j = 0; j < down; j++)
      for (let i = 0; i < across; i++) {
        const at = scene.plane!.toSource({ x: (i + 0.5) / across, y: (j + 0.5) / down });
        line.pins.push({ x: short(at.x), y: short(at.y), dx: 0, dy: 0 });
      }
    void scene.commit("Add grid of pins");
  }
  function pull(outline: Spot[]): void {
    const [amount, soft] = ["amount", "soft"].map(
      (name) => scene.vocabulary!.pulled.find((f) => f.name === name)!.default as number,
    );
    reshape().pulled.push({ outline: flatOf(outline), amount: amount!, soft: soft! });
    void scene.commit("Enlarge foreground");
  }
  function remove(line: AnyShape, words: string): void {
    if (scene.openMove === line.id) scene.openMove = null;
    void scene.edit(`Remove ${words}`, (draft) => {
      draft.shapes = draft.shapes?.filter((s) => s.id !== line.id);
    });
  }
  /** Of a line, how much is done; 1 but where more would fold the picture. */
  const share = (line: AnyShape): number => scene.map?.held_back?.[line.id] ?? 1;
  return {
    shapes,
    open,
    measured,
    brush,
    setBrush,
    reshape,
    nudge,
    alongLine,
    pin,
    grid,
    pull,
    remove,
    share,
  };
});
