/** Pictures from the server, newest first: one request of a kind in flight, the next is the latest. */
import { getCurrentScope, onScopeDispose } from "vue";

import { Refusal } from "../api/client";
import { isAway, onceBack, waitsFor } from "../api/line";

interface Asked<T> {
  request: () => Promise<T | null>;
  patient: boolean;
}

/** What is asked for in a part of the page ends with it. */
export class Newest<T> {
  /** Each run of the pump has a number; an answer that comes after a newer run began is dropped. */
  private run = 0;
  private ended = false;
  private now: Asked<T> | null = null;
  private waiting: Asked<T> | null = null;
  /** Takes back what is to be asked again once the studio answers. */
  private leave: () => void = () => undefined;

  constructor(
    private readonly done: (value: T) => void,
    private readonly failed: (error: Refusal) => void,
  ) {
    if (getCurrentScope()) onScopeDispose(() => this.end());
  }

  /** Ask for something; while one is being answered only the last asked-for waits. A `patient`
   * request (the slow, full answer at rest) is overtaken at once by whatever comes next. */
  ask(request: () => Promise<T | null>, patient = false): void {
    if (this.ended) return;
    this.leave();
    this.waiting = { request, patient };
    if (!this.now || this.now.patient) void this.pump();
  }

  /** Whether something waits behind the request in flight. */
  get queued(): boolean {
    return this.waiting !== null;
  }

  /** Nobody looks any more: what is under way or waits is answered to nobody. */
  private end(): void {
    this.ended = true;
    this.leave();
    this.run++;
    this.waiting = null;
  }

  private async pump(): Promise<void> {
    const run = ++this.run;
    try {
      while (this.waiting && run === this.run) {
        const { request, patient } = (this.now = this.waiting);
        this.waiting = null;
        try {
          const value = await request();
          if (value !== null && run === this.run) this.done(value);
        } catch (error) {
          // also what nobody expected is said, and the next question is asked all the same
          const said = error instanceof Refusal ? error : new Refusal("The answer could not be shown.", -1);
          if (run !== this.run) return;
          this.failed(isAway(said) ? waitsFor(said) : said);
          if (isAway(said) && !this.waiting) this.leave = onceBack(() => this.ask(request, patient));
        }
      }
    } finally {
      if (run === this.run) this.now = null;
    }
  }
}

let last: Promise<unknown> = Promise.resolve();

/** One after the other, for what may wait for something to be found and is not what the eye waits for: so
 * it never takes up all the requests a browser keeps going at a time. */
export function oneByOne<T>(work: () => Promise<T>): Promise<T> {
  const next = last.then(work);
  last = next.catch(() => undefined);
  return next;
}

let counter = Date.now();

/** Rising numbers, so that the server can tell newer requests from older ones. */
export function nextNumber(): number {
  return ++counter;
}

/** This window's name for its views; two windows must not overtake each other. */
export const windowId = crypto.randomUUID().slice(0, 8);
