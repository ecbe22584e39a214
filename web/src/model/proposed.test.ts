import { expect, it } from "vitest";

import type { SceneDocument } from "../api/client";
import { proposed } from "./proposed";

const doc = (ground: object, moves: string[] = []) => ({ ground, moves }) as unknown as SceneDocument;

it("keeps what was changed while it thought, in Ground and elsewhere", () => {
  const asked = doc({ trim: { level: 0 }, ends: { black: -8 }, noise: { amount: 0 } });
  const got = doc({ trim: { level: 0.7 }, ends: { black: -6 }, noise: { amount: 0 } });
  const now = doc({ trim: { level: 2 }, ends: { black: -8 }, noise: { amount: 1 } }, ["exposure"]);
  proposed(asked, got, now);
  expect(now.ground).toEqual({ trim: { level: 2 }, ends: { black: -6 }, noise: { amount: 1 } });
  expect(now.moves).toEqual(["exposure"]);
});
