/** What went wrong, in sentences. Each is about something, and goes when that goes well, or is put away by hand: one
 * thing's success says nothing of another's trouble. */
import { defineStore } from "pinia";
import { computed, ref } from "vue";

import { Refusal } from "../api/client";

export const useNotices = defineStore("notices", () => {
  const held = ref<Record<string, string>>({});
  const all = computed(() => Object.entries(held.value).map(([about, sentence]) => ({ about, sentence })));

  /** Say that something went wrong. Nothing for what was only overtaken. */
  function tell(about: string, what: unknown): void {
    if (what instanceof Refusal && what.status === 401) return; // the password is asked for in place
    const sentence = what instanceof Error ? what.message : String(what);
    if (sentence) held.value = { ...held.value, [about]: sentence };
  }
  /** It goes well now, or was put away. */
  function settle(about: string): void {
    if (!(about in held.value)) return;
    held.value = Object.fromEntries(Object.entries(held.value).filter(([key]) => key !== about));
  }
  function clear(): void {
    held.value = {};
  }
  return { held, all, tell, settle, clear };
});
