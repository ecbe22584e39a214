/** The line to the studio. While nobody answers, what was asked waits here, and is asked again once somebody does: one question
 * is tried, after pauses that grow, for all that wait. */
import { me, Refusal } from "./client";

/** What a machine in between answers when the studio does not. */
const AWAY = new Set([0, 502, 504]);
const FIRST_PAUSE = 1000;
const LONGEST_PAUSE = 20_000;
const SAID = "No connection to the server. Your work is kept; it is tried again.";

export const isAway = (error: unknown): error is Refusal =>
  error instanceof Refusal && AWAY.has(error.status);
/** The same of something that waits for the line, as it is said. */
export const waitsFor = (error: Refusal): Refusal => new Refusal(SAID, error.status);

const waiting = new Set<() => void>();
let pause = 0;
/** When the line was last there for somebody who waited, and when it is tried next. */
let there = -Infinity;
let due = 0;
let timer: number | undefined;

/** Have something done once, when the studio answers. The answer takes it back. */
export function onceBack(work: () => void): () => void {
  // one that answers, and fails what is asked of it all the same, is not asked ever faster
  if (!waiting.size && performance.now() - there > 2 * LONGEST_PAUSE) pause = 0;
  waiting.add(work);
  window.addEventListener("online", atOnce);
  tryLater();
  return () => void waiting.delete(work);
}

/** Ask until the studio answers. `told`: that it does not. Raises what it refuses, and its absence where it is not `wanted` any
 * more. */
export async function untilAnswered<T>(
  ask: () => Promise<T>,
  told: (error: Refusal) => void,
  wanted = () => true,
): Promise<T> {
  for (;;) {
    try {
      return await ask();
    } catch (error) {
      if (!isAway(error) || !wanted()) throw error;
      told(waitsFor(error));
      await new Promise<void>((back) => onceBack(back));
      if (!wanted()) throw error;
    }
  }
}

function tryLater(): void {
  const now = performance.now();
  if (now >= due) {
    pause = pause ? Math.min(2 * pause, LONGEST_PAUSE) : FIRST_PAUSE;
    due = now + pause;
  }
  window.clearTimeout(timer);
  timer = window.setTimeout(() => void tried(), due - now);
}
function atOnce(): void {
  window.clearTimeout(timer);
  void tried();
}
async function tried(): Promise<void> {
  due = 0;
  if (!waiting.size) return;
  if ((await me()) === undefined) return tryLater();
  window.removeEventListener("online", atOnce);
  there = performance.now();
  const all = [...waiting];
  waiting.clear();
  for (const work of all) work();
}
