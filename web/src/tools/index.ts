/** All tools there are: what the files of kinds/ make. */
import type { Hand, Maker, Tool } from "./tool";

const files = import.meta.glob<{ default: Maker }>("./kinds/*.ts", { eager: true });
export const MAKERS: Maker[] = Object.values(files).map((file) => file.default);

/** Every tool by its name. */
export function toolsFor(hand: Hand, makers: Maker[] = MAKERS): Record<string, Tool> {
  return Object.assign({}, ...makers.map((make) => make(hand))) as Record<string, Tool>;
}
