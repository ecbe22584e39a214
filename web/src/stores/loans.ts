/** Frames that lend to a scene: those that could, and aligning one of them. */
import { defineStore } from "pinia";
import { ref, watch } from "vue";

import { client, need, type Schemas } from "../api/client";
import { useScene } from "./scene";

export const useLoans = defineStore("loans", () => {
  const scene = useScene();
  const offered = ref<Schemas["LenderOut"][] | null>(null);
  const asking = ref(false);
  const aligning = ref("");

  /** Frames as they fit to lend: those that show the same first, those that cannot last. */
  async function offer(): Promise<void> {
    asking.value = true;
    await scene.errand("lenders", async (at) => {
      try {
        const params = { path: { scene_id: at.scene } };
        const found = await need(client.GET("/api/scenes/{scene_id}/lenders", { params }));
        if (at.here()) offered.value = found;
      } catch (error) {
        if (at.open()) scene.notices.tell("loan", error);
      } finally {
        if (at.here()) asking.value = false;
      }
    });
  }
  async function lend(frame: Schemas["FrameLine"]): Promise<void> {
    aligning.value = frame.name;
    await scene.errand("loan", async (at) => {
      try {
        const made = await need(
          client.POST("/api/scenes/{scene_id}/loans", {
            params: { path: { scene_id: at.scene } },
            body: { document: at.now() as never, frame: frame.id },
          }),
        );
        if (at.open()) scene.notices.settle("loan");
        at.done((document) => {
          if (!document.sources.some((s) => s.id === made.source.id)) document.sources.push(made.source);
          document.latches.push(made.latch as never);
          (document.loans ??= []).push(made.loan);
        }, `Borrow from ${frame.name}`);
        if (at.open()) offered.value = null;
      } catch (error) {
        scene.notices.tell("loan", at.open() ? error : `${at.name}: ${(error as Error).message}`);
      } finally {
        if (at.here()) aligning.value = "";
      }
    });
  }
  function close(): void {
    offered.value = null;
  }
  watch(
    () => scene.opened?.id,
    () => {
      aligning.value = "";
      asking.value = false;
      offered.value = null;
    },
  );
  return { offered, asking, aligning, offer, lend, close };
});
