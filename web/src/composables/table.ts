/** The frames of an outing on the table: which heap is seen, which are chosen, which is looked at. */
import { computed, nextTick, ref, type Ref } from "vue";

import type { Schemas } from "../api/client";
import { blocks, type Frame } from "../model/gather";

/** The current frame whole or at 100 %, or the chosen ones side by side. */
export type Looking = "" | "one" | "close" | "beside";
const MOST_BESIDE = 6;

export function useTable(outing: Ref<Schemas["OutingOut"] | null>) {
  const heap = ref<string | null>(null);
  const table = computed(() => blocks(outing.value?.frames ?? [], outing.value?.groups ?? [], heap.value));
  const shown = computed(() => table.value.flatMap((b) => b.frames));
  const chosen = ref<string[]>([]);
  const currentId = ref("");
  const current = computed(() => shown.value.find((f) => f.id === currentId.value) ?? shown.value[0] ?? null);
  /** What is looked at large: the current frame, or the chosen ones side by side. */
  const looking = ref<Looking>("");
  const large = computed<Frame[]>(() => {
    if (looking.value === "beside")
      return (outing.value?.frames ?? []).filter((f) => chosen.value.includes(f.id)).slice(0, MOST_BESIDE);
    return looking.value && current.value ? [current.value] : [];
  });
  function choose(id: string): void {
    chosen.value = chosen.value.includes(id) ? chosen.value.filter((c) => c !== id) : [...chosen.value, id];
  }
  function chooseAll(members: Frame[]): void {
    chosen.value = members.map((f) => f.id);
    looking.value = "beside";
  }
  function look(frame: Frame): void {
    currentId.value = frame.id;
    looking.value = "one";
  }
  async function step(by: number): Promise<void> {
    const from = shown.value.findIndex((f) => f.id === current.value?.id);
    const next = shown.value[Math.min(shown.value.length - 1, Math.max(0, from + by))];
    if (!next) return;
    currentId.value = next.id;
    await nextTick();
    if (!looking.value) document.querySelector<HTMLElement>(`[data-frame="${next.id}"]`)?.focus();
  }

  return { heap, table, shown, chosen, currentId, current, looking, large, choose, chooseAll, look, step };
}

/** What the table says where it is empty, and where there is more to come. */
export function useTableSays(outing: Ref<Schemas["OutingOut"] | null>, shown: Readonly<Ref<Frame[]>>) {
  const frames = (n: number) => (n === 1 ? "1 frame" : `${n} frames`);
  const empty = computed(() => {
    if (!outing.value || shown.value.length) return "";
    return outing.value.frames.length
      ? "No frames here."
      : "Gather is where the frames of one trip lie side by side. Drop raw files here, or add a folder; then choose the one worth the evening.";
  });
  const more = computed(() => {
    const of = outing.value;
    return of && of.frames.length < of.count ? `${of.frames.length} of ${frames(of.count)} …` : "";
  });
  return { empty, more };
}
