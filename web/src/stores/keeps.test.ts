import { describe, expect, it } from "vitest";

import type { SceneDocument } from "../api/client";
import { shaped } from "./keeps";

const document = (trim: number, ev: number) =>
  ({
    ground: { trim: { params: { level: trim } }, base_exposure: { params: { ev } } },
    shapes: [{ id: `${trim}` }],
    moves: [],
  }) as unknown as SceneDocument;

describe("a state that is compared", () => {
  it("has today's crop and its own light", () => {
    const [was, now] = [document(0, -1), document(3, 0)];
    const before = JSON.stringify([was, now]);
    const same = shaped(was, now) as unknown as {
      ground: Record<string, { params: Record<string, number> }>;
      shapes: { id: string }[];
    };
    expect(same.ground.trim!.params.level).toBe(3);
    expect(same.ground.base_exposure!.params.ev).toBe(-1);
    expect(same.shapes[0]!.id).toBe("3");
    expect(JSON.stringify([was, now])).toBe(before);
  });
  it("is shaped also where it says nothing of Ground", () => {
    const bare = { moves: [] } as unknown as SceneDocument;
    expect(Object.keys(shaped(bare, document(2, 1)).ground as object)).toEqual(["trim"]);
  });
});
