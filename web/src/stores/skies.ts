/** Skies of the outing that a scene could have, in the order in which they belong; one of them brought. */
import { defineStore } from "pinia";
import { shallowRef, watch } from "vue";

import type { Schemas } from "../api/client";
import { useMend } from "./mend";
import { useScene } from "./scene";

export const useSkies = defineStore("skies", () => {
  const scene = useScene();
  const mend = useMend();
  const offered = shallowRef<Schemas["SkyOffered"][] | null>(null);

  async function offer(): Promise<void> {
    const skies = await mend.skies();
    if (skies) offered.value = skies;
  }
  async function bring(frame: Schemas["FrameLine"]): Promise<void> {
    if (await mend.bringSky(frame)) offered.value = null;
  }
  function close(): void {
    offered.value = null;
  }
  watch(() => scene.opened?.id, close);
  return { offered, offer, bring, close };
});
