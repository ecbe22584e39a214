import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { client, type SceneDocument } from "../api/client";
import type { AnyRepair, Area } from "../model/repairs";
import { useMend } from "./mend";
import { useScene } from "./scene";

interface Asked {
  path: string;
  body: { document: SceneDocument; points?: unknown[] };
  answer: (data: unknown) => Promise<void>;
}
/** What was asked and is not answered yet. */
let asked: Asked[];
let saves: Asked[];
let scene: ReturnType<typeof useScene>;
let mend: ReturnType<typeof useMend>;
const kinds = () => (scene.document!.repairs as AnyRepair[]).map((r) => r.id);
const at = (x: number) => ({ x, y: 0.2 });
const wire = (id: string) => ({ id, kind: "wire", on: true, name: "", path: [], params: {} });
const area = { strokes: [{ points: [0.1, 0.1, 1] }], outline: [] } as unknown as Area;

/** Who would ask before this window is closed, of those that came from now on: other tests' scenes listen, too. */
function askedBeforeClosing(): () => boolean {
  const staying = new Set<unknown>();
  const listen = window.addEventListener.bind(window);
  const leave = window.removeEventListener.bind(window);
  vi.spyOn(window, "addEventListener").mockImplementation(((name: "beforeunload", heard: () => void) => {
    if (name === "beforeunload") staying.add(heard);
    listen(name, heard);
  }) as never);
  vi.spyOn(window, "removeEventListener").mockImplementation(((name: "beforeunload", heard: () => void) => {
    staying.delete(heard);
    leave(name, heard);
  }) as never);
  return () => {
    const closing = new Event("beforeunload", { cancelable: true });
    for (const heard of staying) (heard as (e: Event) => void)(closing);
    return closing.defaultPrevented;
  };
}

beforeEach(async () => {
  vi.restoreAllMocks();
  setActivePinia(createPinia());
  asked = [];
  saves = [];
  const document = { moves: [], latches: [], groups: [], repairs: [], sources: [], ground: {} };
  const opened = { id: "ridge", name: "ridge", sources: [], map: null, revision: { number: 1, document } };
  const there: Record<string, unknown> = {
    "/api/scenes/{scene_id}": opened,
    "/api/vocabulary": { brush: [] },
    "/api/me": { name: "demo" },
  };
  vi.spyOn(client, "GET").mockImplementation(((path: string) =>
    Promise.resolve({ data: there[path] ?? null, response: new Response("") })) as never);
  vi.spyOn(client, "POST").mockImplementation(
    ((path: string, options: { body: Asked["body"] }) =>
      new Promise((resolve) => {
        const answer = async (data: unknown) => {
          resolve({ data, response: new Response("{}") });
          for (let n = 0; n < 12; n++) await Promise.resolve();
        };
        (path.endsWith("/revisions") ? saves : asked).push({ path, body: options.body, answer });
      })) as never,
  );
  scene = useScene();
  await scene.open("ridge");
  mend = useMend();
});

describe("a wire", () => {
  it("pointed at once more before its answer is one wire, through all places", async () => {
    const two = mend.wire([at(0.1), at(0.5)]);
    const three = mend.wire([at(0.1), at(0.5), at(0.9)]);
    await asked[0]!.answer(wire("short"));
    expect(await two).toBe("");
    expect(kinds()).toEqual([]);
    await asked[1]!.answer(wire("long"));
    expect(await three).toBe("long");
    expect(kinds()).toEqual(["long"]);
    expect(saves).toHaveLength(1);
  });
  it("that was left before its answer is none", async () => {
    const traced = mend.wire([at(0.1), at(0.5)]);
    mend.leaveWire();
    await asked[0]!.answer(wire("late"));
    expect(await traced).toBe("");
    expect(kinds()).toEqual([]);
    expect(saves).toHaveLength(0);
  });
});

it("specks that are being looked for are looked for once", async () => {
  void mend.findSpecks();
  void mend.findSpecks();
  expect(asked).toHaveLength(1);
  await asked[0]!.answer({ id: "specks", kind: "specks", spots: [{}] });
  expect(kinds()).toEqual(["specks"]);
  void mend.findSpecks();
  expect(asked).toHaveLength(2);
});

it("a stroke that nobody answers is asked for again, and stands once somebody does", async () => {
  const made = { id: "one", kind: "heal", on: true, name: "", area, take: { dx: 0.1, dy: 0 }, params: {} };
  const answering = vi.mocked(client.POST).getMockImplementation()!;
  vi.mocked(client.POST).mockImplementation((() => Promise.reject(new TypeError("no line"))) as never);
  const asking = askedBeforeClosing();
  const drawn = mend.stroke("heal", area);
  await vi.waitFor(() => expect(scene.notices.all).toHaveLength(1));
  expect(scene.notices.all.map((n) => n.sentence)).toEqual([
    "No connection to the server. Your work is kept; it is tried again.",
  ]);
  expect(mend.doing).toEqual(["healing"]);
  expect(asking()).toBe(true);
  vi.mocked(client.POST).mockImplementation(answering);
  window.dispatchEvent(new Event("online"));
  await vi.waitFor(() => expect(asked).toHaveLength(1));
  await asked[0]!.answer(made);
  await drawn;
  expect(kinds()).toEqual(["one"]);
  expect(scene.notices.all).toEqual([]);
  expect(asking()).toBe(false);
});

it("a stroke waits for the one before, and for nobody's saving", async () => {
  const made = (id: string) => ({
    id,
    kind: "heal",
    on: true,
    name: "",
    area,
    take: { dx: 0.1, dy: 0 },
    params: {},
  });
  void mend.stroke("heal", area);
  void mend.stroke("heal", area);
  await vi.waitFor(() => expect(asked).toHaveLength(1));
  await asked[0]!.answer(made("one"));
  await vi.waitFor(() => expect(asked).toHaveLength(2));
  expect((asked[1]!.body.document.repairs as AnyRepair[]).map((r) => r.id)).toEqual(["one"]);
  await asked[1]!.answer(made("two"));
  await vi.waitFor(() => expect(kinds()).toEqual(["one", "two"]));
});
