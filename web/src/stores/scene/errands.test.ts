import { beforeEach, describe, expect, it } from "vitest";
import { ref, shallowRef } from "vue";

import type { SceneDocument, Schemas } from "../../api/client";
import { errandWork, type Errand } from "./errands";

const doc = (...repairs: string[]) => ({ repairs, latches: [] }) as unknown as SceneDocument;
const repairsOf = (document: SceneDocument) => document.repairs as unknown as string[];

/** Two scenes, of which one is open; what is committed to each, and answers that are held back. */
function house() {
  const kept: Record<string, SceneDocument> = { ridge: doc(), bridge: doc() };
  const committed: [string, string, string[]][] = [];
  const opened = shallowRef<Schemas["SceneOut"] | null>(null);
  const document = ref<SceneDocument | null>(null);
  const commitTo = (id: string, next: SceneDocument, words: string) => {
    kept[id] = structuredClone(next);
    committed.push([id, words, repairsOf(next)]);
  };
  const work = errandWork({
    opened,
    document,
    current: () => JSON.parse(JSON.stringify(document.value)) as SceneDocument,
    commit(words) {
      commitTo(opened.value!.id, JSON.parse(JSON.stringify(document.value)) as SceneDocument, words);
      return Promise.resolve();
    },
    latestOf: (id) => kept[id]!,
    commitTo,
  });
  function open(id: string): void {
    opened.value = { id, name: id } as Schemas["SceneOut"];
    document.value = structuredClone(kept[id]!);
    work.arrive();
  }
  open("ridge");
  return { ...work, open, kept, committed, document };
}
/** An answer that is held back until it is let go. */
function heldBack() {
  let free = () => undefined as void;
  const wait = new Promise<void>((go) => (free = go));
  return { wait, free };
}
let at: ReturnType<typeof house>;
beforeEach(() => (at = house()));
const grow = (
  name: string,
  answer: ReturnType<typeof heldBack>,
  check: (e: Errand) => boolean = () => true,
) =>
  at.errand("regrow", async (mine) => {
    await answer.wait;
    if (check(mine)) mine.done((d) => void repairsOf(d).push(name), name);
  });

describe("an answer that is held back", () => {
  it("lands in the scene it was asked for, though another is open by then", async () => {
    const answer = heldBack();
    const done = grow("rock", answer);
    at.open("bridge");
    repairsOf(at.document.value!).push("drawn on the bridge");
    answer.free();
    await done;
    expect(at.committed).toEqual([["ridge", "rock", ["rock"]]]);
    expect(repairsOf(at.document.value!)).toEqual(["drawn on the bridge"]);
  });
  it("is laid on what was done in its scene meanwhile, there and after coming back", async () => {
    const [one, two] = [heldBack(), heldBack()];
    const both = [grow("one", one), grow("two", two)];
    repairsOf(at.document.value!).push("meanwhile");
    one.free();
    await both[0];
    expect(repairsOf(at.kept.ridge!)).toEqual(["meanwhile", "one"]);
    at.open("bridge");
    at.open("ridge");
    two.free();
    await both[1];
    expect(repairsOf(at.kept.ridge!)).toEqual(["meanwhile", "one", "two"]);
    expect(repairsOf(at.document.value!)).toEqual(["meanwhile", "one", "two"]);
    expect(at.kept.bridge).toEqual(doc());
  });
  it("knows whether a newer one was begun, or it was ended", async () => {
    const [one, two, three] = [heldBack(), heldBack(), heldBack()];
    const first = grow("one", one, (e) => e.wanted());
    const second = grow("two", two, (e) => e.wanted());
    two.free();
    one.free();
    await Promise.all([first, second]);
    expect(at.committed.map((c) => c[1])).toEqual(["two"]);
    const third = grow("three", three, (e) => e.wanted());
    at.endErrands("regrow");
    three.free();
    await third;
    expect(at.committed).toHaveLength(1);
  });
  it("that is only looked at is nothing once its scene was left, though one has come back", async () => {
    const answer = heldBack();
    const seen: boolean[] = [];
    const done = at.errand("hide", async (mine) => {
      seen.push(mine.here());
      await answer.wait;
      seen.push(mine.here(), mine.open());
    });
    at.open("bridge");
    at.open("ridge");
    answer.free();
    await done;
    expect(seen).toEqual([true, false, true]);
  });
  it("is awaited until it has come, or failed", async () => {
    const answer = heldBack();
    const done = at.errand("sky", async () => {
      await answer.wait;
      throw new Error("no sky");
    });
    expect([at.awaited("ridge"), at.awaited("bridge")]).toEqual([true, false]);
    answer.free();
    await expect(done).rejects.toThrow("no sky");
    expect(at.awaited("ridge")).toBe(false);
  });
});
