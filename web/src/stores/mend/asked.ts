/** What is asked of the server at Mend: said while it is worked out, and how far it is. */
import { computed, ref } from "vue";

import { client } from "../../api/client";
import { untilAnswered } from "../../api/line";
import type { AnyRepair } from "../../model/repairs";
import type { useScene } from "../scene";
import type { Errand } from "../scene/errands";

/** Milliseconds after which it is asked again how far work is. */
const FOLLOWED = 500;

/** Ask for something, say what it is meanwhile; null where it was refused, which is told. While the studio does not answer, it
 * waits: what was drawn is not lost. */
export type Asking = <T>(at: Errand, words: string, ask: (work: string) => Promise<T>) => Promise<T | null>;

/** What every part of mending works with. */
export interface Mending {
  scene: ReturnType<typeof useScene>;
  asked: Asking;
  /** Whether something is being worked out, by its words. */
  busy(words: string): boolean;
  /** A repair that was found, into the scene it was found for. */
  add(at: Errand, repair: AnyRepair, words: string): void;
  /** Something tried is taken out of the document again. */
  undo(id: string, words?: string): void;
  params(at: Errand): { path: { scene_id: string } };
}

export function askedWork(scene: ReturnType<typeof useScene>) {
  const all = ref<{ scene: string; words: string }[]>([]);
  /** What is being worked out for the scene that is open, in words. */
  const doing = computed(() => all.value.filter((d) => d.scene === scene.opened?.id).map((d) => d.words));
  /** How much of what is worked out last is done, 0–1; null where nobody knows. */
  const done = ref<number | null>(null);

  async function follow(name: string, words: string): Promise<void> {
    const got = await client.GET("/api/work/{name}", { params: { path: { name } } }).catch(() => null);
    if (doing.value.at(-1) === words) done.value = got?.data ?? done.value;
  }
  const busy = (words: string) => doing.value.includes(words);
  const asked: Asking = async (at, words, ask) => {
    const name = crypto.randomUUID();
    const mine = { scene: at.scene, words };
    all.value = [...all.value, mine];
    /** Of a scene that was left it is said whose trouble it is. */
    function told(error: Error): void {
      if (at.open()) scene.notices.tell("mend", error);
      else scene.notices.tell(`mend ${at.scene}`, `${at.name}: ${error.message}`);
    }
    /** It lies in this window alone: who closes it is asked. */
    const stay = (e: Event) => e.preventDefault();
    const away = (error: Error) => {
      told(error);
      window.addEventListener("beforeunload", stay);
    };
    const following = window.setInterval(() => void follow(name, words), FOLLOWED);
    try {
      const got = await untilAnswered(() => ask(name), away);
      if (at.open()) scene.notices.settle("mend");
      return got;
    } catch (error) {
      told(error as Error);
      return null;
    } finally {
      window.clearInterval(following);
      window.removeEventListener("beforeunload", stay);
      done.value = null;
      const rest = [...all.value];
      rest.splice(
        rest.findIndex((d) => d.scene === mine.scene && d.words === mine.words),
        1,
      );
      all.value = rest;
    }
  };
  return { doing, done, busy, asked };
}
