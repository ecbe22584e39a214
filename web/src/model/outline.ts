/** The line of an outline, as the core draws it: through its points in curves, or straight between sharp ones. */
import type { Spot } from "./plane";

export type Corner = Spot & { sharp: boolean };

/** An SVG path; sunlatch/latch/outline.py has the same tangents. */
export function outlinePath(points: Corner[]): string {
  const n = points.length;
  if (!n) return "";
  const at = (i: number) => points[(i + n) % n]!;
  let path = `M${at(0).x} ${at(0).y}`;
  for (let i = 0; i < n; i++) {
    const a = at(i);
    const b = at(i + 1);
    if (n < 3 || (a.sharp && b.sharp)) {
      path += `L${b.x} ${b.y}`;
      continue;
    }
    const before = a.sharp ? { x: 2 * a.x - b.x, y: 2 * a.y - b.y } : at(i - 1);
    const after = b.sharp ? { x: 2 * b.x - a.x, y: 2 * b.y - a.y } : at(i + 2);
    const one = { x: a.x + (b.x - before.x) / 6, y: a.y + (b.y - before.y) / 6 };
    const other = { x: b.x - (after.x - a.x) / 6, y: b.y - (after.y - a.y) / 6 };
    path += `C${one.x} ${one.y} ${other.x} ${other.y} ${b.x} ${b.y}`;
  }
  return path;
}
