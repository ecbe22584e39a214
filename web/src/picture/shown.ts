/** The newest picture of something: quick ones while it changes, the full one at rest. */
import { onBeforeUnmount, ref, shallowRef } from "vue";

import { picture, type Refusal } from "../api/client";
import type { Map, Region } from "../model/plane";
import { Newest, nextNumber, windowId } from "../stores/pictures";
import type { Target } from "./viewport";

/** What is to be shown. */
export interface Wish {
  /** Where it is asked for. */
  path: string;
  /** Names the view among those of this window: a newer question of one overtakes an older. */
  view: string;
  /** What is said along with the region, asked when it is sent: the document, and how it is looked at. */
  body: () => Record<string, unknown>;
  /** A word for what is shown, which comes back with it. */
  state: string;
}
export interface Shot {
  bitmap: ImageBitmap;
  region: Region;
  state: string;
  full: boolean;
  whole: boolean;
  map: Map | null;
}

/** An answer to a drag that takes longer than this, ms, is asked for at half its size until it is let go. */
const SLOW = 120;
/** After so long without a change the full picture is asked for, ms. */
const REST = 120;
const DECODING = 700;

export function useShown(options: {
  wish: () => Wish | null;
  target: (scale: number) => Target;
  dragging: () => boolean;
  got: (shot: Shot) => void;
  failed: (error: Refusal) => void;
}) {
  const shot = shallowRef<Shot | null>(null);
  /** True until the full answer to the last question is there. */
  const pending = ref(false);
  /** What is waited for, in words; "" when the picture is current. */
  const waiting = ref("");
  let coarse = false;
  let settling = 0;

  const newest = new Newest<Shot>(
    (got) => {
      shot.value?.bitmap.close();
      shot.value = got;
      waiting.value = got.full ? "" : "rendering full quality";
      if (!got.whole) {
        waiting.value = "preview; full frame loading";
        // the full answer is made of the whole frame, once it is there; what it would take before, decoding needs
        settling = window.setTimeout(() => ask(false), DECODING);
      } else if (!got.full && !options.dragging()) settle();
      else pending.value = newest.queued || !got.full;
      options.got(got);
    },
    (error) => {
      pending.value = false;
      waiting.value = "";
      options.failed(error);
    },
  );

  function ask(full: boolean): void {
    const wish = options.wish();
    if (!wish) return;
    window.clearTimeout(settling);
    pending.value = true;
    newest.ask(async () => {
      const now = options.wish();
      if (!now) return null;
      const at = options.target(coarse && options.dragging() ? 0.5 : 1);
      const body = { ...at, ...now.body(), full, view: `${windowId}/${now.view}`, number: nextNumber() };
      if (!shot.value) waiting.value = "developing";
      const asked = performance.now();
      const got = await picture(now.path, body);
      if (!got) return null;
      if (options.dragging() && performance.now() - asked > SLOW) coarse = true;
      const bitmap = await createImageBitmap(got.blob);
      return { bitmap, region: at.region, state: now.state, full, whole: got.whole, map: got.map };
    }, full);
  }
  /** Ask for the full picture once nothing changes any more. */
  function settle(): void {
    if (!shot.value?.whole) return; // it is asked for when the answer is here
    window.clearTimeout(settling);
    settling = window.setTimeout(() => ask(true), REST);
  }
  /** A drag has begun or is over: whether it is quick is found out anew. */
  const fresh = () => (coarse = false);

  onBeforeUnmount(() => {
    window.clearTimeout(settling);
    shot.value?.bitmap.close();
  });
  return { shot, pending, waiting, ask, settle, fresh };
}
