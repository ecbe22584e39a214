/** Keys: what can be done with one, said by whoever does it. Each can be looked at, changed and switched off (WCAG 2.1.4), and
 * means one thing wherever it means anything. */
import { useEventListener, useLocalStorage } from "@vueuse/core";
import { defineStore } from "pinia";
import { computed, onScopeDispose, shallowReactive } from "vue";

export interface Action {
  /** Its name, unlike any other. */
  name: string;
  /** What the key does, in a few words. */
  says: string;
  /** Its key, unless somebody has chosen another. */
  key: string;
  run(e: KeyboardEvent): void;
  /** The key has come up. */
  up?(): void;
  /** The window has changed while it was down; the same as coming up, where nothing else is said. */
  away?(): void;
}
/** What somebody has chosen: none at all, or others; "" is none. */
interface Chosen {
  off: boolean;
  own: Record<string, string>;
}

/** Keys whose meaning is not ours to give away. */
const TAKEN = ["Escape", "Tab", "Enter", " ", "Shift", "Control", "Alt", "Meta"];
const TYPED = "input:not([type=range]):not([type=radio]):not([type=checkbox]), textarea, select";
/** A number takes what numbers are written with. */
const NUMERAL = /^[\d.,\-−]$/;

export const useKeys = defineStore("keys", () => {
  const chosen = useLocalStorage<Chosen>("sun-latch-keys", { off: false, own: {} });
  const actions = shallowReactive(new Map<string, Action>());
  const keyOf = (action: Pick<Action, "name" | "key">) => chosen.value.own[action.name] ?? action.key;
  const rows = computed(() =>
    [...actions.values()].map((action) => ({
      action,
      key: keyOf(action),
      own: action.name in chosen.value.own,
    })),
  );

  /** Say what can be done, while this component is there. */
  function add(...some: Action[]): void {
    for (const action of some) actions.set(action.name, action);
    onScopeDispose(() => some.forEach((a) => actions.get(a.name) === a && actions.delete(a.name)));
  }
  /** Choose another key, "" for none. What stands in the way is said; "" where nothing does. */
  function choose(action: Action, key: string): string {
    if (TAKEN.includes(key)) return "That key is reserved; choose another.";
    const other = rows.value.find((r) => r.key === key && r.action.name !== action.name);
    if (key && other) return `${key} is: ${other.action.says}.`;
    chosen.value.own = { ...chosen.value.own, [action.name]: key };
    return "";
  }
  /** As they came. */
  function reset(): void {
    chosen.value = { off: false, own: {} };
  }

  /** Those whose key is down now. */
  const held = new Map<string, Action>();
  function down(e: KeyboardEvent): void {
    const on = e.target as HTMLElement;
    if (e.defaultPrevented || e.ctrlKey || e.metaKey || e.altKey || on.closest?.(TYPED)) return;
    if (on.closest?.("[role=spinbutton]") && NUMERAL.test(e.key)) return;
    if (chosen.value.off && e.key.length === 1) return;
    const found = rows.value.find((r) => r.key === e.key)?.action;
    if (!found) return;
    e.preventDefault();
    if (e.repeat) return;
    held.set(e.code, found);
    found.run(e);
  }
  function up(e: KeyboardEvent): void {
    held.get(e.code)?.up?.();
    held.delete(e.code);
  }
  /** The window changes: keys that are down now come up elsewhere. */
  function away(): void {
    for (const action of held.values()) (action.away ?? action.up)?.();
    held.clear();
  }
  useEventListener(window, "keydown", down);
  useEventListener(window, "keyup", up);
  useEventListener(window, "blur", away);
  useEventListener(document, "visibilitychange", () => document.hidden && away());

  return { chosen, rows, add, choose, reset };
});
