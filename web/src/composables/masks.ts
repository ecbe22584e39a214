/** What lies over the picture: a latch, or where something drawn for a move acts, over the region that is seen. */
import { computed, ref, shallowRef, watch, type Ref } from "vue";

import { picture } from "../api/client";
import type { Region } from "../model/plane";
import type { Target } from "../picture/viewport";
import { Newest, nextNumber, windowId } from "../stores/pictures";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

/** `latch`: which one is wanted; `target`: what is seen. */
export function useMasks(latch: Ref<string>, target: () => Target) {
  const scene = useScene();
  const view = useView();
  const got = shallowRef<{ data: ImageData; region: Region; key: string } | null>(null);
  const waiting = ref(false);
  /** Something is looked for in the frame, and takes long. */
  const finding = ref(false);
  let slow = 0;
  /** What is wanted: its name, the way to it, and what is asked there. */
  const wanted = computed(() => {
    const crisped = view.comparing === "mask" && view.station === "Ground";
    const zone = crisped ? { move: "crispness", n: 0 } : view.comparing ? null : view.zone;
    if (zone) return { key: `${zone.move} ${zone.n}`, path: "zone", asked: { ...zone }, finds: false };
    const held = latch.value;
    const line = scene.latches.find((l) => l.id === held);
    const finds = !!line?.ingredients.some(
      (i) => scene.ingredientKinds.find((k) => k.kind === i.kind)?.found,
    );
    return held ? { key: held, path: "mask", asked: { latch: held }, finds } : null;
  });
  /** The mask to be drawn, where it is the one that is wanted. */
  const mask = computed(() => (got.value && got.value.key === wanted.value?.key ? got.value : null));

  const masks = new Newest<{ data: ImageData; region: Region; key: string }>(
    (answer) => {
      got.value = answer;
      scene.notices.settle("mask");
      // an answer to an earlier question is shown, and the newer one waited for
      waiting.value = masks.queued;
      window.clearTimeout(slow);
      finding.value = false;
    },
    (error) => {
      waiting.value = false;
      window.clearTimeout(slow);
      finding.value = false;
      got.value = null; // an old mask is not shown as if it were this one
      scene.notices.tell("mask", error);
    },
  );

  function ask(): void {
    const want = wanted.value;
    if (!want || !scene.opened) {
      got.value = null;
      waiting.value = false;
      return;
    }
    const id = scene.opened.id;
    waiting.value = true;
    window.clearTimeout(slow);
    if (want.finds) slow = window.setTimeout(() => (finding.value = true), 700);
    masks.ask(async () => {
      const at = target();
      const body = {
        ...at, ...want.asked, document: scene.current(), view: `${windowId}/mask`, number: nextNumber(),
      }; // prettier-ignore
      const answer = await picture(`/api/scenes/${id}/${want.path}`, body);
      if (!answer) return null;
      const bitmap = await createImageBitmap(answer.blob);
      const work = new OffscreenCanvas(bitmap.width, bitmap.height);
      const pen = work.getContext("2d")!;
      pen.drawImage(bitmap, 0, 0);
      return {
        data: pen.getImageData(0, 0, bitmap.width, bitmap.height), region: at.region, key: want.key,
      }; // prettier-ignore
    });
  }
  watch([() => scene.tick, () => wanted.value?.key], ask);
  return { mask, waiting, finding, ask };
}
