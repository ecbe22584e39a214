/** What is taken out of the scene: repairs are found by the server, and stand in the document from then on. */
import { defineStore } from "pinia";
import { computed, ref, watch } from "vue";

import { client, need } from "../api/client";
import type { Spot as Point } from "../model/plane";
import type { AnyRepair } from "../model/repairs";
import { within } from "../model/wording";
import { askedWork, type Mending } from "./mend/asked";
import { growWork } from "./mend/growing";
import { skyWork } from "./mend/skies";
import { speckWork } from "./mend/specks";
import { strokeWork } from "./mend/strokes";
import { useScene } from "./scene";
import type { Errand } from "./scene/errands";

export type { Limit, Proposal } from "./mend/growing";

export const useMend = defineStore("mend", () => {
  const scene = useScene();
  const repairs = computed(() => (scene.document?.repairs ?? []) as AnyRepair[]);
  /** Latches that hold anything: what should go, or what it may be grown from. */
  const latches = computed(() => scene.latches.filter((l) => l.ingredients.length));
  const open = computed(() => repairs.value.find((r) => r.id === scene.openMove) ?? null);
  /** What of the brush was set by hand; the rest is as it is declared. */
  const set = ref<Record<string, number>>({});
  const declared = (name: string) => scene.vocabulary?.brush.find((f) => f.name === name);
  /** The brush: its radius in long edges, and the share of it over which it ends. */
  const brush = computed(() => {
    const of = (name: string) => set.value[name] ?? (declared(name)?.default as number) ?? 0;
    return { size: of("size"), soft: of("soft") };
  });
  function setBrush(name: "size" | "soft", value: number): void {
    const field = declared(name);
    if (field) set.value = { ...set.value, [name]: within(field, value) };
  }
  /** A line that is pointed at, beside the picture or on it. */
  const pointed = ref("");
  const { doing, done, busy, asked } = askedWork(scene);
  const params = (at: Errand) => ({ path: { scene_id: at.scene } });
  /** A repair that was found, into the scene it was found for. */
  function add(at: Errand, repair: AnyRepair, words: string): void {
    at.done((document) => void (document.repairs ??= []).push(repair as never), words);
    if (at.open()) scene.openMove = repair.id;
  }

  const work: Mending = { scene, asked, busy, add, undo, params };
  const { known, ...ofSpecks } = speckWork(work, repairs);
  const { proposals, hidden, ...grown } = growWork(work, repairs);
  // what is tried, or offered, is of the scene it was tried in
  watch(
    () => scene.opened?.id,
    () => {
      hidden.value = "";
      proposals.value = known.value = null;
    },
  );

  const { draft, sketch, dropSketch, stroke } = strokeWork(scene, repairs, asked, undo);

  /** A wire through places; `again`: in place of one that was traced through some of them. Its id once it stands; "" where
   * places were added since, or it was left. */
  function wire(points: Point[], again = ""): Promise<string> {
    return scene.errand("wire", async (at) => {
      const made = await asked(at, "following the wire", () => {
        const document = at.now();
        document.repairs = document.repairs?.filter((r) => r.id !== again);
        return need(
          client.POST("/api/scenes/{scene_id}/mend/wire", {
            params: params(at),
            body: { document: document as never, points },
          }),
        );
      });
      if (!made || !at.wanted()) return "";
      at.done(
        (now) => (now.repairs = [...(now.repairs ?? []).filter((r) => r.id !== again), made] as never),
        again ? "Extend wire" : "Take out wire",
      );
      if (at.open()) scene.openMove = made.id!;
      return made.id!;
    });
  }
  /** What is still being followed is not wanted any more. */
  const leaveWire = () => scene.endErrands("wire");
  /** Something tried is taken out of the document again. */
  function undo(id: string, words = "As it was"): void {
    if (scene.committed().some((r) => r.id === id)) {
      scene.document!.repairs = repairs.value.filter((r) => r.id !== id) as never;
      void scene.commit(words);
    } else scene.restore();
  }
  function remove(repair: AnyRepair, words: string): void {
    if (scene.openMove === repair.id) scene.openMove = null;
    void scene.edit(`Remove ${words}`, (draft) => {
      draft.repairs = draft.repairs?.filter((r) => r.id !== repair.id);
    });
  }
  function shift(repair: AnyRepair, by: 1 | -1): void {
    void scene.edit(`Move repair ${by < 0 ? "up" : "down"}`, ({ repairs: all = [] }) => {
      const n = all.findIndex((r) => r.id === repair.id);
      all.splice(n + by, 0, ...all.splice(n, 1));
    });
  }
  return {
    repairs, latches, open, brush, setBrush, pointed, doing, done, draft, sketch, dropSketch, stroke, wire, leaveWire,
    known, proposals, hidden, remove, shift, ...ofSpecks, ...grown, ...skyWork(work),
  }; // prettier-ignore
});
