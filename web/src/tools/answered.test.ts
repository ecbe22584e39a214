import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { ref } from "vue";

import type { SceneDocument } from "../api/client";
import type { Place } from "../picture/pointer";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import { toolsFor } from "./index";

const hand = { frame: ref({ left: 0, top: 0, width: 100, height: 100 }) };
const line = {
  id: "i",
  kind: "subject",
  on: true,
  params: { answer: "no", box: null, marks: [] as object[] },
};
let scene: ReturnType<typeof useScene>;

beforeEach(() => {
  setActivePinia(createPinia());
  scene = useScene();
  scene.vocabulary = { brush: [], moves: [], ingredients: [] } as never;
  scene.map = { box: [0, 0, 1, 0.66] } as never;
  vi.spyOn(scene, "plane", "get").mockReturnValue({
    width: 300, height: 200, toSource: (p: object) => ({ ...p }), toPicture: (p: object) => ({ ...p }),
  } as never); // prettier-ignore
  const ingredients = [structuredClone(line)];
  scene.document = {
    moves: [],
    latches: [{ id: "l", ingredients }],
    repairs: [],
    shapes: [],
  } as unknown as SceneDocument;
  scene.openLatch = "l";
  scene.openIngredient = "i";
  vi.spyOn(scene, "commit").mockResolvedValue(undefined);
});

/** What is saved once a tool went from one place to another. */
async function drawn(name: string): Promise<typeof line.params> {
  const at = (x: number, y: number) => ({ stage: { x, y }, pressure: 1, shift: false }) as Place;
  useView().tool = name;
  const tool = toolsFor(hand)[name]!;
  tool.down?.(at(20, 20));
  tool.move?.({ ...at(60, 60), between: [at(60, 60)] } as never);
  await tool.up?.(at(60, 60));
  expect(scene.commit).toHaveBeenCalledOnce();
  return scene.document!.latches[0]!.ingredients[0]!.params as unknown as typeof line.params;
}

describe("a thing that was said not to be there", () => {
  it("is there once a box is drawn around it", async () => {
    const params = await drawn("box");
    expect(params.box).toMatchObject({ one: { x: 0.2, y: 0.2 }, other: { x: 0.6, y: 0.6 } });
    expect(params.answer).toBe("found");
  });
  it("is there once some of it is marked", async () => {
    const params = await drawn("mark");
    expect(params.marks).toHaveLength(1);
    expect(params.answer).toBe("found");
  });
  it("is not there for a mark of what does not belong to it", async () => {
    const params = await drawn("unmark");
    expect(params.marks).toHaveLength(1);
    expect(params.answer).toBe("no");
  });
});
