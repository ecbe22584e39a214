import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { nextTick } from "vue";

import { client, type SceneDocument } from "../api/client";
import { LONG_AT_IT, shaped, useKeeps } from "./keeps";
import { useScene } from "./scene";

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

describe("a look at the start", () => {
  beforeEach(() => {
    vi.useFakeTimers();
    setActivePinia(createPinia());
  });
  afterEach(() => vi.useRealTimers());

  async function opened(id: string) {
    const [scene, keeps] = [useScene(), useKeeps()];
    scene.opened = { id, outing: "o", keeps: [], revision: { number: 4 } } as never;
    scene.revision = { number: 4 } as never;
    await nextTick();
    return { scene, keeps };
  }
  it("is offered after twenty minutes in which something was done", async () => {
    const { scene, keeps } = await opened("a");
    scene.revision = { number: 9 } as never;
    vi.advanceTimersByTime(LONG_AT_IT - 1000);
    expect(keeps.offered).toBe(false);
    vi.advanceTimersByTime(1000);
    expect(keeps.offered).toBe(true);
  });
  it("is not offered to one who only looks, nor for a scene that was left", async () => {
    const { scene, keeps } = await opened("a");
    vi.advanceTimersByTime(LONG_AT_IT);
    expect(keeps.offered).toBe(false);
    await opened("b");
    scene.revision = { number: 9 } as never;
    vi.advanceTimersByTime(LONG_AT_IT / 2);
    await opened("c");
    vi.advanceTimersByTime(LONG_AT_IT / 2);
    expect(keeps.offered).toBe(false);
  });
});

it("nothing is kept or undone of a scene while another is being opened", async () => {
  setActivePinia(createPinia());
  const [scene, keeps] = [useScene(), useKeeps()];
  const revision = { number: 2, undo: "Heal", document: { moves: [], latches: [], groups: [], ground: {} } };
  const scenes = (id: string) => ({ id, outing: "o", keeps: [], revision, map: null });
  let arrive = () => {};
  vi.spyOn(client, "GET").mockImplementation(((path: string, asked?: { params: { path: { scene_id: string } } }) =>
    new Promise((resolve) => {
      const id = path === "/api/scenes/{scene_id}" && asked?.params.path.scene_id;
      const come = () => resolve({ data: id ? scenes(id) : {}, response: new Response("") });
      if (id === "bridge") arrive = come;
      else come();
    })) as never); // prettier-ignore
  const asked = vi.spyOn(client, "POST").mockImplementation((path: string) => {
    const data = path.endsWith("keeps") ? {} : { ...revision, number: 1 };
    return Promise.resolve({ data, response: new Response("{}") }) as never;
  });
  await scene.open("ridge");
  const opening = scene.open("bridge");
  expect(scene.coming).toBe("bridge");
  await Promise.all([scene.step("undo"), keeps.keep()]);
  expect(asked).not.toHaveBeenCalled();
  arrive();
  await opening;
  expect(scene.coming).toBe("");
  await Promise.all([scene.step("undo"), keeps.keep()]);
  expect(asked).toHaveBeenCalledTimes(2);
  vi.restoreAllMocks();
});
