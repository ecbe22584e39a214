/** What went wrong, in sentences. Each is about something, and goes when that goes well, or is put away by hand: one
 * thing's success says nothing of another's trouble. */
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import { Refusal } from "../api/client";
import { isAway, onceBack } from "../api/line";

/** Something to do, in words. */
export interface Act {
  words: string;
  run: () => void;
}

export const useNotices = defineStore("notices", () => {
  const held = ref<Record<string, string>>({});
  const acts = shallowRef<Record<string, Act>>({});
  const all = computed(() =>
    Object.entries(held.value)
      // what another one says already, with more to it or in the same words, is not said twice
      .filter(([, said], n, told) =>
        told.every(([, more], m) => n === m || !more.includes(said) || (more === said && m > n)),
      )
      .map(([about, sentence]) => ({ about, sentence, act: acts.value[about] })),
  );

  /** Say that something went wrong, and what can be done about it at once. Nothing for what was only overtaken. */
  function tell(about: string, what: unknown, act?: Act): void {
    if (what instanceof Refusal && what.status === 401) return; // the password is asked for in place
    const sentence = what instanceof Error ? what.message : String(what);
    if (!sentence) return;
    held.value = { ...held.value, [about]: sentence };
    const others = Object.entries(acts.value).filter(([key]) => key !== about);
    acts.value = Object.fromEntries(act ? [...others, [about, act]] : others);
    // nobody goes on saying that there is no line once there is
    if (isAway(what)) onceBack(() => held.value[about] === sentence && settle(about));
  }
  /** It goes well now, or was put away. */
  function settle(about: string): void {
    if (!(about in held.value)) return;
    held.value = Object.fromEntries(Object.entries(held.value).filter(([key]) => key !== about));
  }
  /** Put away by hand, and with it what is not said because it says it. */
  function dismiss(about: string): void {
    const said = held.value[about] ?? "";
    Object.keys(held.value).forEach((key) => said.includes(held.value[key]!) && settle(key));
  }
  function clear(): void {
    held.value = {};
  }
  return { held, all, tell, settle, dismiss, clear };
});
