/** What a file of tests begins ends with it: its window is gone then, and what still came would find none. */
import { disableAutoUnmount, enableAutoUnmount } from "@vue/test-utils";
import { afterAll, afterEach } from "vitest";

/** Nobody is asked: what a test does not answer itself stays without an answer. */
const silent: typeof fetch = () => new Promise(() => undefined);
globalThis.fetch = silent;

disableAutoUnmount();
enableAutoUnmount(afterEach);

/** Timers are those of this file: it puts its own in place of those of the world, which all files share. */
const { setTimeout: after, setInterval: every } = globalThis;
const begun = new Set<ReturnType<typeof setTimeout>>();
const noted = <T extends typeof setTimeout | typeof setInterval>(begin: T): T =>
  Object.assign((...of: Parameters<T>) => {
    const timer = (begin as (...of: unknown[]) => ReturnType<typeof setTimeout>)(...of);
    begun.add(timer);
    return timer;
  }, begin) as unknown as T;
globalThis.setTimeout = noted(after);
globalThis.setInterval = noted(every);
afterAll(() => {
  begun.forEach(clearTimeout);
  globalThis.setTimeout = after;
  globalThis.setInterval = every;
});
