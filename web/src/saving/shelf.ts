/** Where edits lie in the browser until they are saved: one place for each scene and window. */
import { createStore, del, entries, set, type UseStore } from "idb-keyval";

import type { Kept } from "./saver";

export interface Shelf {
  put(scene: string, kept: Kept): Promise<void>;
  drop(scene: string): Promise<void>;
  /** What windows that are gone have left of a scene. */
  left(scene: string): Promise<Kept[]>;
  /** Put away what was left of a scene. */
  clear(scene: string): Promise<void>;
}

const LOCK = "sun-latch-window-";

/** `window` names this window; while it lives, it holds a lock of that name, so that others can tell. */
export function browserShelf(window: string): Shelf {
  let store: UseStore | null = null;
  const open = () => (store ??= createStore("sun-latch", "unsaved"));
  navigator.locks?.request(LOCK + window, () => new Promise(() => undefined)).catch(() => undefined);
  // one write after the other: the last one counts
  let last: Promise<unknown> = Promise.resolve();
  const after = (work: () => Promise<unknown>) => {
    last = last.then(work).catch(() => undefined); // a browser that keeps nothing must not stop the saving
    return last as Promise<void>;
  };

  async function ofScene(scene: string): Promise<[string, Kept][]> {
    const held = await navigator.locks?.query().catch(() => null);
    const alive = new Set(held?.held?.map((lock) => lock.name) ?? []);
    // a browser that keeps nothing says so at once, not by its answer
    const all = await (async () => entries<string, Kept>(open()))().catch(() => []);
    return all.filter(([key]) => {
      const [of, by] = key.split("/");
      return of === scene && by !== window && !alive.has(LOCK + by);
    });
  }
  return {
    put: (scene, kept) => after(() => set(`${scene}/${window}`, kept, open())),
    drop: (scene) => after(() => del(`${scene}/${window}`, open())),
    left: async (scene) => (await ofScene(scene)).map(([, kept]) => kept),
    clear: (scene) => after(async () => Promise.all((await ofScene(scene)).map(([key]) => del(key, open())))),
  };
}
