/** Help in place: what a thing does, in one line, while it is pointed at, focused, or pressed for long. */
import { useEventListener } from "@vueuse/core";
import { ref, type Ref } from "vue";

/** A finger that rests so long, ms, asks. */
const LONG = 450;
/** What says what it does: `data-help`. */
const helpOf = (target: EventTarget | null) =>
  (target as Element | null)?.closest?.("[data-help]")?.getAttribute("data-help") ?? "";

export function useHelp(): Ref<string> {
  const says = ref("");
  let resting: ReturnType<typeof setTimeout> | undefined;
  useEventListener(document, "pointerover", (e) => {
    if (e.pointerType !== "touch") says.value = helpOf(e.target);
  });
  useEventListener(document, "focusin", (e) => {
    // a click focuses, too; it has been read by then
    if ((e.target as Element).matches?.(":focus-visible")) says.value = helpOf(e.target);
  });
  useEventListener(document, "focusout", () => (says.value = ""));
  useEventListener(document, "pointerdown", (e) => {
    clearTimeout(resting);
    if (e.pointerType === "touch") resting = setTimeout(() => (says.value = helpOf(e.target)), LONG);
    else says.value = "";
  });
  useEventListener(document, ["pointerup", "pointercancel"], () => clearTimeout(resting));
  return says;
}
