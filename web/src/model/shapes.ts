/** Lines of Reshape and Nudge, and how they read. Places are source coordinates. */
import type { Kind, Of, SceneDocument } from "../api/client";
import type { Plane, Spot } from "./plane";
import { sentence } from "./wording";

export type AnyShape = SceneDocument["shapes"][number];
export type ReshapeLine = Of<AnyShape, "reshape">;
export type NudgeLine = Of<AnyShape, "nudge">;
export type NudgeStroke = NudgeLine["strokes"][number];

const counted = (count: number, one: string, more: string) => (count === 1 ? one : `${count} ${more}`);
/** "Reshape: 2 lines, a pin", "Nudge 80 %: 3 strokes". */
export function shapeReads(line: AnyShape, kind?: Kind): string {
  if (line.kind === "nudge") {
    const plain = !kind || line.params.strength === 1;
    return `${plain ? "Nudge" : sentence(kind, line.params)}: ${counted(line.strokes.length, "a stroke", "strokes")}`;
  }
  const parts = [
    line.lines.length && counted(line.lines.length, "a line", "lines"),
    line.pulled.length && counted(line.pulled.length, "a part pulled nearer", "parts pulled nearer"),
    line.pins.length && counted(line.pins.length, "a pin", "pins"),
  ].filter(Boolean);
  return `Reshape: ${parts.join(", ") || "nothing yet"}`;
}

/** Places held x, y in turn. */
export function placesOf(flat: number[]): Spot[] {
  return Array.from({ length: Math.floor(flat.length / 2) }, (_, n) => ({
    x: flat[2 * n]!,
    y: flat[2 * n + 1]!,
  }));
}
export const short = (v: number): number => Number(v.toFixed(6));
export const flatOf = (places: Spot[]): number[] => places.flatMap((p) => [short(p.x), short(p.y)]);

/** Places along a line in the order in which they lie on it, however they were pointed at: by how far along the way
 * between the two that lie farthest apart. */
export function inOrder(places: Spot[]): Spot[] {
  let [a, b, most] = [places[0]!, places[0]!, -1];
  for (const p of places)
    for (const q of places) {
      const d = Math.hypot(p.x - q.x, p.y - q.y);
      if (d > most) [a, b, most] = [p, q, d];
    }
  const along = (p: Spot) => (p.x - a.x) * (b.x - a.x) + (p.y - a.y) * (b.y - a.y);
  return [...places].sort((p, q) => along(p) - along(q));
}

/** Where the picture is stretched: how many times as long things are as on the frame, at places spread over it (fractions
 * of the picture). */
export function stretches(plane: Plane, columns = 10, rows = 7): { at: Spot; times: number }[] {
  const out = [];
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const at = { x: (i + 0.5) / columns, y: (j + 0.5) / rows };
      out.push({ at, times: plane.stretch(at) });
    }
  return out;
}

/** Lines over the frame, as they lie on the picture (fractions): a grid that shows how it is bent. */
export function bentGrid(plane: Plane, across = 12, steps = 48): Spot[][] {
  const corners = [0, 1].flatMap((x) => [0, 1].map((y) => plane.toSource({ x, y })));
  const [x0, x1] = [Math.min(...corners.map((c) => c.x)), Math.max(...corners.map((c) => c.x))];
  const [y0, y1] = [Math.min(...corners.map((c) => c.y)), Math.max(...corners.map((c) => c.y))];
  const step = Math.max(x1 - x0, y1 - y0) / across;
  const line = (from: Spot, to: Spot) =>
    Array.from({ length: steps + 1 }, (_, n) =>
      plane.toPicture({
        x: from.x + ((to.x - from.x) * n) / steps,
        y: from.y + ((to.y - from.y) * n) / steps,
      }),
    );
  const lines = [];
  for (let x = x0 + step / 2; x < x1; x += step) lines.push(line({ x, y: y0 }, { x, y: y1 }));
  for (let y = y0 + step / 2; y < y1; y += step) lines.push(line({ x: x0, y }, { x: x1, y }));
  return lines;
}
