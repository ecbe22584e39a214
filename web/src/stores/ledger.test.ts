import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { client, type MoveLine, type SceneDocument } from "../api/client";
import { useGroups } from "./groups";
import { useHabits } from "./habits";
import { useScene } from "./scene";
import { useView } from "./view";

const line = (id: string) =>
  ({ id, kind: "exposure", on: true, group: null, params: {} }) as unknown as MoveLine;
const doc = () =>
  ({ moves: ["a", "b", "c"].map(line), latches: [], groups: [], ground: {} }) as unknown as SceneDocument;
let scene: ReturnType<typeof useScene>;
beforeEach(() => {
  vi.restoreAllMocks();
  setActivePinia(createPinia());
  scene = useScene();
  scene.document = doc();
  vi.spyOn(scene, "commit").mockResolvedValue(undefined);
});
const groupsOf = () => scene.moves.map((m) => m.group);

describe("lines together", () => {
  it("begin with two, take a third, and end with their last line", () => {
    const groups = useGroups();
    groups.withAbove(1);
    groups.withAbove(2);
    expect(new Set(groupsOf()).size).toBe(1);
    expect(groups.beginning(0)!.name).toBe("Group 1");
    expect(groups.beginning(1)).toBeUndefined();
    for (const move of [...scene.moves]) groups.out(move);
    expect(groupsOf()).toEqual([null, null, null]);
    expect(groups.groups).toHaveLength(0);
    expect(scene.commit).toHaveBeenLastCalledWith("Take out of Group 1");
  });
  it("keep their name where none is given, and are switched as one", () => {
    const groups = useGroups();
    groups.withAbove(1);
    const [group] = groups.groups;
    groups.rename(group!, "   ");
    expect(groups.groups[0]!.name).toBe("Group 1");
    groups.rename(group!, " Sky ");
    groups.turn(groups.groups[0]!);
    expect(scene.commit).toHaveBeenLastCalledWith("Switch Sky off");
    expect(groups.groups[0]!.on).toBe(false);
  });
});

describe("habits", () => {
  const answer = (data: unknown, status = 200) =>
    Promise.resolve({
      data,
      error: status < 300 ? undefined : data,
      response: new Response(null, { status }),
    });
  it("are told apart by what they are of", async () => {
    vi.spyOn(client, "GET").mockImplementation((() =>
      answer([
        { id: "1", of: "latch" },
        { id: "2", of: "moves" },
      ])) as unknown as typeof client.GET);
    const habits = useHabits();
    await habits.load();
    expect(habits.ofLatches.map((h) => h.id)).toEqual(["1"]);
    expect(habits.ofMoves.map((h) => h.id)).toEqual(["2"]);
  });
  it("bring their latches with their lines, in one commit", async () => {
    vi.spyOn(client, "POST").mockImplementation((() =>
      answer({
        latches: [{ id: "l", ingredients: [] }],
        moves: [line("d")],
      })) as unknown as typeof client.POST);
    scene.opened = { id: "7" } as typeof scene.opened;
    await useHabits().useMoves({ id: "2", name: "Dusk", of: "moves" } as Parameters<
      ReturnType<typeof useHabits>["useMoves"]
    >[0]);
    expect(scene.moves.at(-1)!.id).toBe("d");
    expect(scene.latches).toHaveLength(1);
    expect(scene.commit).toHaveBeenCalledExactlyOnceWith("Use habit Dusk");
  });
});

describe("the view", () => {
  it("turns its surround, and lets a check go", () => {
    const view = useView();
    const seen = [0, 1, 2].map(() => (view.turnSurround(), view.surround));
    expect(seen).toEqual(["white", "black", "grey"]);
    view.comparing = "squint";
    view.pinned = true;
    view.letGo();
    expect([view.comparing, view.pinned]).toEqual(["", false]);
  });
});
