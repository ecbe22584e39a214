/** Start for me: a proposal for Ground, what it looks at meanwhile, and what it says where it has nothing to propose. */
import { defineStore } from "pinia";
import { ref, watch } from "vue";

import { client, type SceneDocument, type Schemas } from "../api/client";
import { proposed } from "../model/proposed";
import { useScene } from "./scene";

/** What a proposal looks at, asked so often, ms. */
const FOLLOWED = 150;

export const useStart = defineStore("start", () => {
  const scene = useScene();
  const starting = ref(false);
  const said = ref("");
  const looks = ref("");

  async function follow(): Promise<void> {
    if (!scene.opened) return;
    const params = { path: { scene_id: scene.opened.id } };
    const got = await client.GET("/api/scenes/{scene_id}/ground/propose", { params }).catch(() => null);
    if (got?.data?.at) looks.value = got.data.at;
  }
  async function start(): Promise<void> {
    if (starting.value) return;
    const before = scene.current();
    const id = scene.opened?.id;
    starting.value = true;
    said.value = looks.value = "";
    const watching = window.setInterval(() => void follow(), FOLLOWED);
    const got = await scene.find<Schemas["Proposed"]>("propose");
    window.clearInterval(watching);
    if (scene.opened?.id !== id) return;
    starting.value = false;
    if (!got) return;
    if (!got.proposals.length) {
      said.value = "Nothing to propose: what could be set is set already.";
      return;
    }
    void scene.edit("Start for me", (draft) => proposed(before, got.document as SceneDocument, draft));
  }
  watch(
    () => scene.opened?.id,
    () => {
      starting.value = false;
      said.value = "";
    },
  );
  return { starting, said, looks, start };
});
