/** Removing outings, frames, scenes, exports and habits, and taking them back while that can be done. */
import { ref } from "vue";

import { client, need, type Schemas } from "../api/client";

export type Removed = Schemas["Removed"];

/** `changed` is told when something went, or came back. */
export function useRemoval(changed: () => unknown) {
  /** What was removed by the last click, in this window. */
  const last = ref<Removed[]>([]);
  /** All that can be taken back. */
  const held = ref<Removed[]>([]);

  async function load(): Promise<void> {
    held.value = await need(client.GET("/api/removed"));
  }
  async function remove(what: Removed["what"], ids: string[]): Promise<void> {
    const gone: Removed[] = [];
    try {
      for (const id of ids) gone.push(await need(client.POST("/api/removed", { body: { what, id } })));
    } finally {
      if (gone.length) last.value = gone;
      await changed();
      await load();
    }
  }
  async function takeBack(things: Removed[]): Promise<void> {
    for (const { what, id } of things) {
      const got = await client.DELETE("/api/removed/{what}/{key}", { params: { path: { what, key: id } } });
      if (!got.response.ok) await need(Promise.resolve(got));
    }
    last.value = last.value.filter((r) => !things.some((t) => t.id === r.id));
    await changed();
    await load();
  }
  return { last, held, load, remove, takeBack };
}
