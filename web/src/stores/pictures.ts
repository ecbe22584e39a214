/** Pictures from the server, newest first: one request of a kind in flight, the next is the latest. */
import { Refusal } from "../api/client";

export class Newest<T> {
  private running = false;
  private waiting: (() => Promise<T | null>) | null = null;

  constructor(
    private readonly done: (value: T) => void,
    private readonly failed: (error: Refusal) => void,
  ) {}

  /** Ask for something; while one is being answered only the last asked-for waits. */
  ask(request: () => Promise<T | null>): void {
    this.waiting = request;
    if (!this.running) void this.pump();
  }

  /** Whether something waits behind the request in flight. */
  get queued(): boolean {
    return this.waiting !== null;
  }

  private async pump(): Promise<void> {
    this.running = true;
    try {
      while (this.waiting) {
        const request = this.waiting;
        this.waiting = null;
        try {
          const value = await request();
          if (value !== null) this.done(value);
        } catch (error) {
          if (!(error instanceof Refusal)) throw error;
          this.failed(error);
        }
      }
    } finally {
      this.running = false;
    }
  }
}

let counter = Date.now();

/** Rising numbers, so that the server can tell newer requests from older ones. */
export function nextNumber(): number {
  return ++counter;
}

/** This window's name for its views; two windows must not overtake each other. */
export const windowId = crypto.randomUUID().slice(0, 8);
