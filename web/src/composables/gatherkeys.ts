/** The keys at Gather. */
import { useEventListener } from "@vueuse/core";
import type { Ref } from "vue";

import { useKeys } from "../keys/keys";
import { HEAPS, type Frame, type Sorting } from "../model/gather";
import type { Looking } from "./table";

interface At {
  looking: Ref<Looking>;
  chosen: Ref<string[]>;
  current: Ref<Frame | null>;
  step: (by: number) => Promise<void>;
  letGo: () => void;
  choose: (id: string) => void;
  sort: (frame: Frame, sorting: Sorting) => unknown;
  rename: (frame: Frame) => void;
  remove: (ids: string[]) => unknown;
  overview: () => void;
  keys: () => void;
}
const TYPING = "input:not([type=checkbox]), textarea, select";
/** What cannot be given another key. */
const FIXED: [string, string][] = [
  ["arrows", "the next frame"],
  ["Enter", "look at it large; again, or Escape, to go back"],
];
const STEPS: Record<string, number> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };

export function useGatherKeys(at: At): [string, string][] {
  const { looking, chosen } = at;
  const single = () => (looking.value === "beside" ? null : at.current.value);
  const onOne = (work: (frame: Frame) => unknown) => () => {
    const frame = single();
    if (frame) void work(frame);
  };
  useKeys().add(
    ...HEAPS.map((h) => ({
      name: `heap ${h.sorting}`,
      says: `at Gather: ${h.label}`,
      key: h.key,
      run: onOne((f) => at.sort(f, h.sorting)),
    })),
    { name: "zoom 0", says: "the whole picture", key: "w", run: onOne(() => (looking.value = "one")) },
    { name: "zoom 1", says: "100 %", key: "r", run: onOne(() => (looking.value = "close")) },
    { name: "choose", says: "at Gather: select the frame", key: "c", run: onOne((f) => at.choose(f.id)) },
    {
      name: "beside",
      says: "at Gather: compare the selected ones",
      key: "d",
      run() {
        if (chosen.value.length > 1) looking.value = looking.value === "beside" ? "" : "beside";
      },
    },
    { name: "rename", says: "rename", key: "F2", run: onOne(at.rename) },
    {
      name: "remove",
      says: "at Gather: remove it, or the selected ones",
      key: "Delete",
      // never what only happens to come first: what was chosen, is looked at, or has the focus
      run() {
        const focused = document.activeElement?.closest<HTMLElement>("[data-frame]")?.dataset.frame;
        const one = looking.value ? single()?.id : focused;
        if (looking.value === "beside") return;
        if (chosen.value.length) void at.remove(chosen.value);
        else if (one) void at.remove([one]);
      },
    },
    { name: "overview", says: "at Gather: small pictures", key: "v", run: at.overview },
    { name: "keys", says: "these keys", key: "?", run: at.keys },
  );
  useEventListener(window, "keydown", (e) => {
    const on = e.target as HTMLElement;
    if (on.closest?.(TYPING) || e.ctrlKey || e.metaKey || e.altKey) return;
    const by = STEPS[e.key];
    if (e.key === "Escape") at.letGo();
    else if (!single()) return;
    else if (e.key === "Enter" && looking.value && !on.closest("button")) looking.value = "";
    else if (by) {
      e.preventDefault();
      void at.step(by);
    }
  });
  return FIXED;
}
