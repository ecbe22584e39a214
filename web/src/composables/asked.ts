/** What is asked of the server again whenever what it depends on changes: the newest question wins, the others are aborted, and
 * all of them with the view they were asked for. */
import { onScopeDispose, ref, shallowRef, watch, type Ref, type ShallowRef } from "vue";

import { Refusal } from "../api/client";
import { isAway, onceBack, waitsFor } from "../api/line";

export interface Asked<K, T> {
  /** The last answer; null while there is none. */
  value: ShallowRef<T | null>;
  /** What it answers. */
  of: ShallowRef<K | null>;
  /** An answer is on its way. */
  pending: Ref<boolean>;
  /** Why the last question was not answered. */
  failed: ShallowRef<Refusal | null>;
}

/** `key`: what the answer depends on; null where there is nothing to ask (an old answer goes), undefined where it is not the
 * time to ask (it stays). `request`: may give null where a newer question overtook it. `tell`: told of a
 * refusal, and when it is settled. */
export function useAsked<K, T>(
  key: () => K | null | undefined,
  request: (key: K, stop: AbortSignal) => Promise<T | null>,
  tell?: (refusal: Refusal | null) => void,
): Asked<K, T> {
  const value = shallowRef<T | null>(null);
  const of = shallowRef<K | null>(null);
  const failed = shallowRef<Refusal | null>(null);
  const pending = ref(false);
  let under: AbortController | null = null;
  /** Takes back what is to be asked again once the studio answers. */
  let leave: () => void = () => undefined;

  function end(): void {
    leave();
    under?.abort();
    under = null;
    pending.value = false;
  }
  async function put(about: K): Promise<void> {
    end();
    const mine = (under = new AbortController());
    pending.value = true;
    try {
      const got = await request(about, mine.signal);
      if (under !== mine || got === null) return;
      value.value = got;
      of.value = about;
      failed.value = null;
    } catch (error) {
      if (under !== mine) return;
      value.value = null;
      const said = error instanceof Refusal ? error : new Refusal("The answer could not be shown.", -1);
      failed.value = isAway(said) ? waitsFor(said) : said;
      end();
      if (isAway(said)) leave = onceBack(() => void put(about));
    } finally {
      if (under === mine) end();
    }
  }
  watch(
    key,
    (about) => {
      if (about === undefined) return;
      if (about !== null) return void put(about);
      end();
      value.value = failed.value = null;
    },
    { immediate: true },
  );
  onScopeDispose(end);
  if (tell) watch(failed, tell);
  return { value, of, pending, failed };
}
