/** Repairs as they lie on the picture, and as they read. Places are source coordinates. */
import type { Kind, Of, SceneDocument } from "../api/client";
import type { Spot } from "./plane";
import { sentence, type Values } from "./wording";

export type AnyRepair = SceneDocument["repairs"][number];
export type Area = HealRepair["area"];
export type SpecksRepair = Of<AnyRepair, "specks">;
export type HealRepair = Of<AnyRepair, "heal">;
export type CloneRepair = Of<AnyRepair, "clone">;
export type WireRepair = Of<AnyRepair, "wire">;
export type RegrowRepair = Of<AnyRepair, "regrow">;

function pairs(flat: number[], step: number): Spot[] {
  return Array.from({ length: Math.floor(flat.length / step) }, (_, n) => ({
    x: flat[n * step]!,
    y: flat[n * step + 1]!,
  }));
}
/** The lines an area is drawn by: strokes with their radius, an outline or the rim of a mask's box without one. */
export function shapesOf(area: Area): { points: Spot[]; radius: number; closed: boolean }[] {
  const shapes = (area.strokes ?? []).map((s) => ({
    points: pairs(s.points, 3),
    radius: s.radius,
    closed: false,
  }));
  if (area.outline?.length) shapes.push({ points: pairs(area.outline, 2), radius: 0, closed: true });
  if (area.mask) {
    const [x0, y0, x1, y1] = area.mask.box as [number, number, number, number];
    const points = [
      { x: x0, y: y0 },
      { x: x1, y: y0 },
      { x: x1, y: y1 },
      { x: x0, y: y1 },
    ];
    shapes.push({ points, radius: 0, closed: true });
  }
  return shapes;
}
/** A wire's path, no more of it than is drawn. */
export function wirePath(repair: WireRepair, most = 200): Spot[] {
  const all = pairs(repair.path, 2);
  const every = Math.max(1, Math.ceil(all.length / most));
  return all.filter((_, n) => n % every === 0 || n === all.length - 1);
}
/** How far a place lies from a line of places. */
function away(at: Spot, line: Spot[]): number {
  let least = Infinity;
  line.forEach((b, n) => {
    const a = line[Math.max(n - 1, 0)]!;
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const length = dx * dx + dy * dy;
    const t = length ? Math.min(Math.max(((at.x - a.x) * dx + (at.y - a.y) * dy) / length, 0), 1) : 0;
    least = Math.min(least, Math.hypot(at.x - a.x - t * dx, at.y - a.y - t * dy));
  });
  return least;
}
function within(at: Spot, ring: Spot[]): boolean {
  let odd = false;
  ring.forEach((a, n) => {
    const b = ring[(n + 1) % ring.length]!;
    if (a.y > at.y !== b.y > at.y && at.x < a.x + ((at.y - a.y) / (b.y - a.y)) * (b.x - a.x)) odd = !odd;
  });
  return odd;
}
/** Whether a place lies on a repair, or no farther from it than `slack` (long edges). */
export function liesOn(repair: AnyRepair, at: Spot, slack: number): boolean {
  if (repair.kind === "specks")
    return repair.spots.some((s) => Math.hypot(s.x - at.x, s.y - at.y) <= s.radius + slack);
  if (repair.kind === "wire") return away(at, wirePath(repair)) <= slack;
  return shapesOf(repair.area).some((s) =>
    s.closed ? within(at, s.points) : away(at, s.points) <= s.radius + slack,
  );
}
/** Where a repair lies: left, top, right, bottom in source coordinates. */
export function boxOf(repair: AnyRepair): [number, number, number, number] {
  const around: { points: Spot[]; radius: number }[] =
    repair.kind === "specks"
      ? repair.spots.map((s) => ({ points: [s], radius: s.radius }))
      : repair.kind === "wire"
        ? [{ points: wirePath(repair), radius: 0.002 }]
        : shapesOf(repair.area);
  const xs = around.flatMap((a) => a.points.flatMap((p) => [p.x - a.radius, p.x + a.radius]));
  const ys = around.flatMap((a) => a.points.flatMap((p) => [p.y - a.radius, p.y + a.radius]));
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}
export function middleOf(repair: AnyRepair): Spot {
  const [x0, y0, x1, y1] = boxOf(repair);
  return { x: (x0 + x1) / 2, y: (y0 + y1) / 2 };
}
/** Carry a place: its strokes and its outline; a mask with its box. */
export function carried(area: Area, dx: number, dy: number): Area {
  const moved = (flat: number[], step: number) =>
    flat.map((v, n) => (n % step === 0 ? v + dx : n % step === 1 ? v + dy : v));
  return {
    strokes: (area.strokes ?? []).map((s) => ({ ...s, points: moved(s.points, 3) })),
    outline: moved(area.outline ?? [], 2),
    mask: area.mask ? { ...area.mask, box: moved(area.mask.box, 2) } : null,
  };
}
/** How a repair reads: "31 specks", "Heal". */
export function readsAs(repair: AnyRepair, kind: Kind | undefined): string {
  if (repair.kind === "specks") {
    const count = repair.spots.filter((s) => s.on).length;
    return `${count} ${count === 1 ? "speck" : "specks"}`;
  }
  if (!kind) return repair.kind;
  const params: Values = repair.params;
  const plain = kind.fields.every((f) => params[f.name] === f.default);
  return plain || repair.kind === "wire" ? kind.label : sentence(kind, params);
}
