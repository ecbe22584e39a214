/** Giving outings, frames and scenes another name, and their old one back. */
import { ref } from "vue";

import { client, need, type Schemas } from "../api/client";

export type Naming = Schemas["Naming"];

/** `changed` is told when something has another name. */
export function useNaming(changed: () => unknown) {
  /** What is to be renamed, with the name it has. */
  const asked = ref<Naming | null>(null);
  /** What was renamed last. */
  const last = ref<Schemas["Named"] | null>(null);

  async function give(name: string): Promise<void> {
    const { what, id } = asked.value!;
    last.value = await need(client.POST("/api/names", { body: { what, id, name } }));
    asked.value = null;
    await changed();
  }
  async function back(): Promise<void> {
    const { what, id, before } = last.value!;
    await need(client.POST("/api/names", { body: { what, id, name: before } }));
    last.value = null;
    await changed();
  }
  return { asked, last, give, back };
}
