import { describe, expect, it } from "vitest";

import { parted } from "./kinds/painting";

describe("a long stroke", () => {
  const points = (n: number) => Array.from({ length: 3 * n }, (_, i) => i);

  it.each([1, 2, 5, 6, 7, 11, 3000, 3001, 10_000])("of %i points is all there", (n) => {
    const parts = parted(points(n), n < 100 ? 15 : 9000);
    const joined = parts.flatMap((p, i) => (i ? p.slice(3) : p));
    expect(joined).toEqual(points(n));
    for (const [i, part] of parts.entries()) {
      expect(part.length).toBeLessThanOrEqual(9000);
      if (i) expect(part.slice(0, 3)).toEqual(parts[i - 1]!.slice(-3)); // it goes on where the last one ended
    }
  });
});
