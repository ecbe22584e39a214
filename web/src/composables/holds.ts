/** Whether the open latch holds anything, and what its settings do that one may not expect. */
import { computed } from "vue";

import { client, need } from "../api/client";
import { oneByOne } from "../stores/pictures";
import { useScene } from "../stores/scene";
import { useAsked } from "./asked";

export function useHolds() {
  const scene = useScene();
  const asked = useAsked(
    () => {
      const latch = scene.latch?.id;
      if (!scene.opened || !latch) return null;
      return scene.dragging ? undefined : { id: scene.opened.id, latch, tick: scene.tick };
    },
    ({ id, latch }, signal) => {
      const params = { path: { scene_id: id } };
      const body = { document: scene.current(), latch };
      // what is wrong is said by the picture
      return oneByOne(() => need(client.POST("/api/scenes/{scene_id}/holds", { params, body, signal })));
    },
  );
  // of another latch it says nothing
  return computed(() => (asked.of.value?.latch === scene.latch?.id ? asked.value.value : null));
}
