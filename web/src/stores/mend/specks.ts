/** Specks: found all at once, pointed at one by one, known of the camera from other scenes, and counted in passing. */
import { computed, ref, shallowRef, type Ref } from "vue";

import { client, need } from "../../api/client";
import type { Spot as Point } from "../../model/plane";
import type { AnyRepair } from "../../model/repairs";
import type { Mending } from "./asked";

export function speckWork({ scene, asked, busy, add, params }: Mending, repairs: Ref<AnyRepair[]>) {
  /** Specks known of this camera from other scenes, as a line that can be taken in; null where there are none. */
  const known = shallowRef<AnyRepair | null>(null);
  /** Specks on the frame of a scene that nobody has mended yet, once they were looked for there. */
  const counted = ref<{ id: string; count: number } | null>(null);
  const left = computed(() => (counted.value?.id === scene.opened?.id ? (counted.value?.count ?? 0) : 0));

  async function findSpecks(): Promise<void> {
    if (busy("looking for specks")) return;
    await scene.errand("specks", async (at) => {
      const found = await asked(at, "looking for specks", async (work) => {
        const body = { document: at.now() as never, work };
        const answer = client.POST("/api/scenes/{scene_id}/mend/specks", { params: params(at), body });
        const got = await answer.catch(() => null);
        if (got?.response.ok && !got.data)
          throw new Error("No specks were found; point at one that you see.");
        return need(answer);
      });
      if (!found) return;
      if (at.open()) counted.value = null;
      const count = found.spots.length;
      add(at, found as AnyRepair, `Mend ${count} ${count === 1 ? "speck" : "specks"}`);
    });
  }
  /** A speck that was pointed at: into the line of specks that is there, or a new one; off and on where it is in one. */
  async function speck(place: Point, radius: number): Promise<void> {
    for (const line of repairs.value) {
      if (line.kind !== "specks") continue;
      const held = line.spots.find((s) => Math.hypot(s.x - place.x, s.y - place.y) < s.radius);
      if (!held) continue;
      held.on = !held.on;
      void scene.commit(held.on ? "Mend spot again" : "Leave spot");
      return;
    }
    await scene.errand("speck", async (at) => {
      const spot = await asked(at, "mending a speck", () =>
        need(
          client.POST("/api/scenes/{scene_id}/mend/spot", {
            params: params(at),
            body: { document: at.now() as never, ...place, radius },
          }),
        ),
      );
      if (!spot) return;
      at.done((document) => {
        const line = (document.repairs as AnyRepair[] | undefined)?.findLast((r) => r.kind === "specks");
        if (line?.kind === "specks") line.spots.push(spot);
        else {
          const id = crypto.randomUUID();
          const made = { kind: "specks", id, on: true, name: "", revision: 1, spots: [spot], params: { reach: 1 } }; // prettier-ignore
          (document.repairs ??= []).push(made as never);
          if (at.open()) scene.openMove = id;
        }
      }, "Mend spot");
    });
  }
  async function askKnown(): Promise<void> {
    known.value = null;
    if (!scene.opened || (scene.document?.base?.kind ?? "frame") !== "frame") return;
    await scene.errand("known specks", async (at) => {
      const body = { document: at.now() as never };
      const found = await client
        .POST("/api/scenes/{scene_id}/mend/known", { params: params(at), body })
        .catch(() => null);
      if (at.here()) known.value = (found?.data as AnyRepair | undefined) ?? null;
    });
  }
  async function takeKnown(): Promise<void> {
    const line = known.value;
    known.value = null;
    if (line) await scene.errand("take known", async (at) => add(at, line, "Mend known specks"));
  }
  /** How many specks are left on the frame, asked in passing. */
  async function count(): Promise<void> {
    if (!scene.opened) return;
    counted.value = null;
    await scene.errand("count specks", async (at) => {
      const body = { document: at.now() as never };
      const found = await client
        .POST("/api/scenes/{scene_id}/mend/specks", { params: params(at), body })
        .catch(() => null);
      if (at.here() && found) counted.value = { id: at.scene, count: found.data?.spots.length ?? 0 };
    });
    await askKnown();
  }
  return { known, left, findSpecks, speck, askKnown, takeKnown, count };
}
