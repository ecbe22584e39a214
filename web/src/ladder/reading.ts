/** What the ladder shows, read of the picture as it is shown; and beside it what the picture was before Light, or what it is
 * compared with. */
import { ref, shallowRef, watch, type Ref } from "vue";

import { client, needNewest, type Refusal, type Schemas } from "../api/client";
import { useKeeps } from "../stores/keeps";
import { Newest, nextNumber, windowId } from "../stores/pictures";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

export type Ladder = Schemas["Ladder"];

/** `wings`: the latches whose light is read apart. */
export function useLadder(wings: Readonly<Ref<string[]>>) {
  const scene = useScene();
  const view = useView();
  const keeps = useKeeps();
  const ladder = shallowRef<Ladder | null>(null);
  const start = shallowRef<Ladder | null>(null);
  /** What is shown was read of an earlier state: the last question was not answered. */
  const old = ref(false);

  async function read(
    document: Record<string, unknown>,
    name: string,
    ids: string[],
  ): Promise<Ladder | null> {
    const params = { path: { scene_id: scene.opened!.id } };
    const body = { document, wings: ids, view: name, number: nextNumber() };
    return needNewest(client.POST("/api/scenes/{scene_id}/meters", { params, body }));
  }
  function unread(error: Refusal): void {
    old.value = true;
    scene.notices.tell("ladder", error);
  }
  const now = new Newest<Ladder>((got) => {
    ladder.value = got;
    old.value = false;
    scene.notices.settle("ladder");
  }, unread);
  const before = new Newest<Ladder>(
    (got) => (start.value = got),
    () => (startOf = ""),
  );
  let startOf = "";
  /** What it is compared with: the other state, or this one without Light. */
  function beside(): Record<string, unknown> {
    if (keeps.way && keeps.other) return JSON.parse(JSON.stringify(keeps.other)) as Record<string, unknown>;
    const current = scene.current();
    // what Ground is latched to stays: the document would not hold without it
    const ground = Object.values(current.ground ?? {}) as { latch?: string | null }[];
    const latches = ground.some((line) => line.latch) ? current.latches : [];
    return { ...current, moves: [], latches, loans: [], sky: null };
  }
  watch(
    [() => scene.tick, wings, () => view.comparing, () => keeps.way, () => keeps.other],
    () => {
      if (!scene.opened || !scene.document) return;
      now.ask(() => read(scene.shown(), `${windowId}/now`, wings.value));
      const doc = beside();
      const key = JSON.stringify(doc);
      if (key === startOf) return;
      startOf = key;
      before.ask(() => read(doc, `${windowId}/start`, []));
    },
    { immediate: true },
  );
  return { ladder, start, old };
}
