/** What was chosen last, of each sort of thing, on this machine. */
import { useLocalStorage } from "@vueuse/core";
import { computed } from "vue";

/** So many of them come first. */
const FEW = 3;

export function useUsed(about: string) {
  const all = useLocalStorage<Record<string, string[]>>("sun-latch-used", {});
  const last = computed(() => all.value[about] ?? []);
  function use(name: string): void {
    all.value = {
      ...all.value,
      [about]: [name, ...last.value.filter((n) => n !== name)].slice(0, FEW),
    };
  }
  return { last, use };
}
