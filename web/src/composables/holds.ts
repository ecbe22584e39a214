/** Whether the open latch holds anything, and what its settings do that one may not expect. */
import { ref, watch } from "vue";

import { client, need, type Schemas } from "../api/client";
import { aside } from "../stores/pictures";
import { useScene } from "../stores/scene";

export function useHolds() {
  const scene = useScene();
  const held = ref<Schemas["HoldsOut"] | null>(null);
  let asked = 0;

  async function ask(): Promise<void> {
    if (!scene.opened || !scene.latch || scene.dragging) return;
    const mine = ++asked;
    const params = { path: { scene_id: scene.opened.id } };
    const body = { document: scene.current(), latch: scene.latch.id! };
    const got = await aside(() => need(client.POST("/api/scenes/{scene_id}/holds", { params, body }))).catch(
      () => null,
    ); // what is wrong is said by the picture
    if (mine === asked) held.value = got;
  }
  watch(
    [() => scene.openLatch, () => scene.tick],
    ([latch], [before]) => {
      if (latch !== before) held.value = null;
      void ask();
    },
    { immediate: true },
  );
  return held;
}
