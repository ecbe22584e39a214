/** Files brought in one after another, each with its progress; refused ones stay until put away. */
import { ref } from "vue";

import { upload } from "../api/client";

export interface Arrival {
  name: string;
  share: number;
  state: "sending" | "reading" | "refused";
  said: string;
}

/** `here` says which outing they go to; `each` is called after every file, `all` after the last. */
export function useArrivals(
  here: () => Promise<string>,
  each: () => Promise<unknown>,
  all: () => Promise<unknown>,
) {
  const arrivals = ref<Arrival[]>([]);

  async function bring(files: FileList | File[] | null | undefined): Promise<void> {
    if (!files?.length) return;
    const into = await here();
    for (const file of Array.from(files)) {
      arrivals.value.push({ name: file.name, share: 0, state: "sending", said: "" });
      const line = arrivals.value[arrivals.value.length - 1]!;
      try {
        await upload(into, file, (share) => {
          line.share = share;
          if (share >= 1) line.state = "reading";
        });
        arrivals.value = arrivals.value.filter((a) => a !== line);
      } catch (refusal) {
        line.state = "refused";
        line.said = (refusal as Error).message;
      }
      await each();
    }
    await all();
  }
  return { arrivals, bring };
}
