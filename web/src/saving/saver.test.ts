import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { Refusal } from "../api/client";
import { Saver, type Edit, type Kept, type Revision, type SavingState, type Snapshot } from "./saver";
import type { Shelf } from "./shelf";

/** A server that keeps revisions as the real one does, and can be slow, away, forgetful or signed out. */
class Server {
  revisions: (Revision & { words: string })[] = [{ number: 1, document: { v: 0 }, key: "", words: "start" }];
  head = 1;
  away = false;
  signedIn = true;
  delay = 10;
  /** Answers that are lost on the way back. */
  losesAnswers = 0;
  /** Sent instead of an answer, once each. */
  instead: unknown[] = [];
  calls = 0;

  get now(): Revision & { words: string } {
    return this.revisions.find((r) => r.number === this.head)!;
  }
  async save(base: number, edit: Edit): Promise<Revision> {
    this.calls++;
    await new Promise((r) => setTimeout(r, this.delay));
    if (this.away) throw new Refusal("No connection to the server.", 0);
    if (!this.signedIn) throw new Refusal("signed out", 401);
    if (this.instead.length) throw this.instead.shift();
    if (this.now.key !== edit.key) {
      if (base !== this.head) throw new Refusal("conflict", 409, this.now);
      const number = Math.max(...this.revisions.map((r) => r.number)) + 1;
      this.revisions.push({
        number, key: edit.key, words: edit.words, document: JSON.parse(JSON.stringify(edit.document)),
      }); // prettier-ignore
      this.head = number;
    }
    const answer = { ...this.now };
    if (this.losesAnswers-- > 0) throw new Refusal("No connection to the server.", 0);
    return answer;
  }
  get words(): string[] {
    return this.revisions.slice(1).map((r) => r.words);
  }
}
class Memory implements Shelf {
  held = new Map<string, Kept>();
  async put(scene: string, kept: Kept): Promise<void> {
    this.held.set(scene, structuredClone(kept));
  }
  async drop(scene: string): Promise<void> {
    this.held.delete(scene);
  }
  async left(scene: string): Promise<Kept[]> {
    return this.held.has(scene) ? [this.held.get(scene)!] : [];
  }
  async clear(scene: string): Promise<void> {
    this.held.delete(scene);
  }
}

describe("the saver", () => {
  let server: Server;
  let shelf: Memory;
  let states: SavingState[];
  let refusals: string[];
  let acknowledged: string[];
  let saver: Saver;
  /** What the screen holds; a commit takes it as it is. */
  let v: number;

  beforeEach(() => {
    vi.useFakeTimers();
    server = new Server();
    shelf = new Memory();
    [states, refusals, acknowledged, v] = [[], [], [], 0];
    saver = new Saver((_, base, edit) => server.save(base, edit), shelf, {
      state: (s) => states.push(s),
      saved: (_, edit) => acknowledged.push(edit.words),
      refused: (said) => refusals.push(said),
    });
    saver.open("scene", server.now);
  });
  afterEach(() => vi.useRealTimers());
  const commit = (words: string, document: object = { v: ++v }) => saver.commit(document as Snapshot, words);
  const after = (ms: number) => vi.advanceTimersByTimeAsync(ms);

  it("takes its snapshot when it is told, not when it sends", async () => {
    server.delay = 500;
    commit("first");
    commit("second");
    const latest = saver.latest;
    await after(2000);
    expect(server.words).toEqual(["first", "second"]);
    expect(server.revisions.map((r) => (r.document as { v: number }).v)).toEqual([0, 1, 2]);
    expect(latest).toEqual({ v: 2 });
  });

  it("says saved only when everything is", async () => {
    server.delay = 300;
    commit("one");
    expect(saver.state).toBe("saving");
    await after(200);
    commit("two");
    await after(200);
    expect(acknowledged).toEqual(["one"]);
    expect(saver.state).toBe("saving");
    await after(400);
    expect(saver.state).toBe("saved");
    expect(states.filter((s) => s === "saved")).toHaveLength(2); // as it was opened, and now
  });

  it("goes back to what was committed last, though it is still on its way", async () => {
    server.delay = 5000;
    commit("on its way");
    await after(100);
    expect(saver.latest).toEqual({ v: 1 });
    expect(saver.unsaved).toBe(true);
  });

  it("tries again with growing pauses while the server is away, and loses nothing in a minute", async () => {
    server.away = true;
    commit("first");
    await after(100);
    expect(saver.state).toBe("waiting");
    commit("second");
    await after(60_000);
    expect(server.calls).toBeGreaterThan(4);
    expect(server.calls).toBeLessThan(12);
    expect(server.words).toEqual([]);
    expect(shelf.held.get("scene")!.edits.map((e) => e.words)).toEqual(["first", "second"]);
    server.away = false;
    await after(31_000);
    expect(server.words).toEqual(["first", "second"]);
    expect(saver.state).toBe("saved");
    expect(shelf.held.size).toBe(0);
  });

  it("tries at once when the network is back", async () => {
    server.away = true;
    commit("first");
    await after(20_000);
    server.away = false;
    saver.resume();
    await after(100);
    expect(saver.state).toBe("saved");
  });

  it("saves once what was saved and whose answer was lost", async () => {
    server.losesAnswers = 1;
    commit("lost");
    await after(100);
    expect(saver.state).toBe("waiting");
    await after(2000);
    expect(saver.state).toBe("saved");
    expect(server.words).toEqual(["lost"]);
  });

  it.each([
    ["an answer nobody expected", new TypeError("x is not a function")],
    ["a 500", new Refusal("broken", 500)],
    ["a gateway's 502", new Refusal("bad gateway", 502)],
    ["too much to do", new Refusal("later", 503)],
    ["a page that is too old", new Refusal("CSRF", 403)],
  ])("goes on after %s", async (_, error) => {
    server.instead = [error];
    commit("first");
    commit("second");
    await after(5000);
    expect(server.words).toEqual(["first", "second"]);
    expect(saver.state).toBe("saved");
  });

  it("waits for the password when the session has ended, and goes on", async () => {
    server.signedIn = false;
    commit("first");
    await after(100);
    commit("second");
    expect(saver.state).toBe("ended");
    await after(120_000);
    expect(server.calls).toBe(1);
    server.signedIn = true;
    saver.resume();
    await after(100);
    expect(server.words).toEqual(["first", "second"]);
  });

  it("leaves out what is refused, says so, and saves what comes after", async () => {
    server.instead = [new Refusal("A latch cannot be made of itself.", 422)];
    commit("wrong");
    commit("right");
    await after(500);
    expect(refusals).toEqual(["A latch cannot be made of itself."]);
    expect(server.words).toEqual(["right"]);
    expect(saver.state).toBe("saved");
  });

  describe("when another window saved in between", () => {
    beforeEach(async () => {
      const there = server.save(1, {
        key: "other",
        document: { theirs: true } as unknown as Snapshot,
        words: "theirs",
        made: 0,
      });
      await after(50);
      await there;
    });
    it("asks, and saves nothing over it by itself", async () => {
      commit("mine");
      commit("mine too");
      await after(90_000);
      expect(saver.state).toBe("conflict");
      expect(saver.theirs!.document).toEqual({ theirs: true });
      expect(server.words).toEqual(["theirs"]);
    });
    it("keeps mine on top of theirs, which stays", async () => {
      commit("mine");
      commit("mine too");
      await after(100);
      saver.keepOurs();
      await after(100);
      expect(server.words).toEqual(["theirs", "mine too"]);
      expect(saver.state).toBe("saved");
    });
    it("takes theirs", async () => {
      commit("mine");
      await after(100);
      expect(saver.takeTheirs().document).toEqual({ theirs: true });
      commit("on theirs");
      await after(100);
      expect(server.words).toEqual(["theirs", "on theirs"]);
      expect(shelf.held.size).toBe(0);
    });
  });

  it("keeps in the browser what a scene that is gone would not take", async () => {
    server.instead = [new Refusal("not there", 404)];
    commit("mine");
    await after(60_000);
    expect(saver.state).toBe("stopped");
    expect(shelf.held.get("scene")!.edits).toHaveLength(1);
  });

  it("takes up what a window that is gone has left", async () => {
    server.away = true;
    commit("before the crash");
    commit("and this");
    await after(100);
    const [left] = await shelf.left("scene");
    server.away = false;
    const fresh = new Saver((_, base, edit) => server.save(base, edit), shelf, {
      state: () => undefined,
      saved: () => undefined,
      refused: () => undefined,
    });
    fresh.open("scene", server.now);
    expect(left!.base).toBe(fresh.base);
    fresh.takeUp(left!.edits);
    await after(1000);
    expect(server.words).toEqual(["before the crash", "and this"]);
  });

  it("hears nothing of a scene that was left for another", async () => {
    server.delay = 1000;
    commit("old scene");
    await after(10);
    saver.open("another", { number: 7, document: {} });
    await after(2000);
    expect(acknowledged).toEqual([]);
    expect(saver.base).toBe(7);
    expect(saver.state).toBe("saved");
    expect(server.words).toEqual(["old scene"]); // it was sent, and it is saved
  });

  it("lets nobody wait for ever", async () => {
    let done = 0;
    server.delay = 100;
    commit("one");
    void saver.settled().then(() => done++);
    commit("two");
    void saver.settled().then(() => done++);
    await after(120);
    expect(done).toBe(0);
    await after(200);
    expect(done).toBe(2);
    await saver.settled();
  });
});

describe("an undo on its way", () => {
  it("is waited for: what is committed meanwhile goes on top of it, and is no conflict", async () => {
    const server = new Server();
    const states: SavingState[] = [];
    const told = {
      state: (s: SavingState) => states.push(s),
      saved: () => undefined,
      refused: () => undefined,
    };
    const saver = new Saver((_, base, edit) => server.save(base, edit), new Memory(), told);
    saver.open("s", server.now);
    saver.commit({ v: 1 } as unknown as Snapshot, "one");
    await saver.settled();
    await saver.during(async () => {
      saver.commit({ v: 2 } as unknown as Snapshot, "two");
      await new Promise((r) => setTimeout(r, 40));
      server.head = 1;
      saver.moved(server.now);
    });
    await saver.settled();
    expect(states).not.toContain("conflict");
    expect(server.now).toMatchObject({ document: { v: 2 }, words: "two", number: 3 });
  });
});
