/** Files brought in one after another, each with its progress; refused ones stay until put away. */
import { computed, ref } from "vue";

import { upload } from "../api/client";

export interface Arrival {
  name: string;
  share: number;
  state: "waiting" | "sending" | "reading" | "refused";
  said: string;
}

/** `here` says which outing they go to; `each` is called after every file, `all` after the last. */
export function useArrivals(
  here: () => Promise<string>,
  each: () => Promise<unknown>,
  all: () => Promise<unknown>,
) {
  const arrivals = ref<Arrival[]>([]);
  const coming = computed(() => arrivals.value.filter((a) => a.state !== "refused"));
  const stops = new WeakMap<Arrival, AbortController>();
  const away = (line: Arrival) => (arrivals.value = arrivals.value.filter((a) => a !== line));

  async function bring(files: FileList | File[] | null | undefined): Promise<void> {
    const list = Array.from(files ?? []);
    if (!list.length) return;
    const into = await here();
    const first = arrivals.value.length;
    arrivals.value.push(
      ...list.map((file): Arrival => ({ name: file.name, share: 0, state: "waiting", said: "" })),
    );
    const lines = arrivals.value.slice(first);
    for (const [n, file] of list.entries()) {
      const line = lines[n]!;
      if (!arrivals.value.includes(line)) continue; // stopped before its turn came
      const stop = new AbortController();
      stops.set(line, stop);
      line.state = "sending";
      try {
        await upload(
          into,
          file,
          (share) => {
            line.share = share;
            if (share >= 1) line.state = "reading";
          },
          stop.signal,
        );
        away(line);
      } catch (refusal) {
        if (stop.signal.aborted) continue;
        line.state = "refused";
        line.said = (refusal as Error).message;
      }
      await each();
    }
    await all();
  }
  /** No longer bring in one that has not been read, or put a refused one away. */
  function stop(line: Arrival): void {
    away(line);
    stops.get(line)?.abort();
  }
  const stopAll = () => [...coming.value].forEach(stop);
  return { arrivals, coming, bring, stop, stopAll };
}
