/** Lines laid over a crop, as fractions of it. */
export const GUIDES: Record<string, string> = {
  none: "none",
  thirds: "thirds",
  diagonals: "diagonals",
  centre: "centre",
  golden: "golden section",
};

type Line = [number, number, number, number];
const GOLDEN = (Math.sqrt(5) - 1) / 2;

function cross(at: number[]): Line[] {
  return at.flatMap((v): Line[] => [
    [v, 0, v, 1],
    [0, v, 1, v],
  ]);
}

export function guideLines(kind: string): Line[] {
  if (kind === "thirds") return cross([1 / 3, 2 / 3]);
  if (kind === "golden") return cross([1 - GOLDEN, GOLDEN]);
  if (kind === "centre") return cross([0.5]);
  if (kind === "diagonals")
    return [
      [0, 0, 1, 1],
      [0, 1, 1, 0],
    ];
  return [];
}
