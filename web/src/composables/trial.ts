/** A line that stands in the document, not saved, until it is taken or left; with the latch made for it. */
import { computed, ref, watch } from "vue";

import type { Latch, MoveLine } from "../api/client";
import { useScene } from "../stores/scene";

/** `gone` is told when something else, an undo perhaps, took the line away. */
export function useTrial(gone: () => void = () => undefined) {
  const scene = useScene();
  const line = ref("");
  let latch = "";
  const stands = computed(() => line.value !== "" && scene.moves.some((m) => m.id === line.value));

  function takeOut(): void {
    const all = scene.document!;
    all.moves = all.moves!.filter((m) => m.id !== line.value);
    if (latch) all.latches = all.latches!.filter((l) => l.id !== latch);
  }
  /** The document as it is without what is tried. */
  function without(): Record<string, unknown> {
    const all = scene.current() as { moves: { id: string }[]; latches: { id: string }[] };
    return {
      ...all,
      moves: all.moves.filter((m) => m.id !== line.value),
      latches: all.latches.filter((l) => l.id !== latch),
    };
  }
  /** Show a line; the one shown before makes way, in its place. */
  function show(next: MoveLine, made: Latch | null = null): void {
    const id = line.value || next.id || crypto.randomUUID();
    takeOut();
    line.value = id;
    latch = made?.id ?? "";
    if (made) scene.document!.latches.push(made);
    scene.document!.moves.push({ ...next, id } as MoveLine);
    scene.tryOut();
  }
  function forget(): void {
    line.value = latch = "";
  }
  /** Keep it, with words for undo; its id. */
  function take(words: string): string {
    const taken = line.value;
    forget();
    void scene.commit(words);
    return taken;
  }
  /** Gone from sight at once. Something else may have been committed while it stood, and the line with it: then its
   * going is committed as well. */
  function leave(): void {
    if (!line.value) return;
    const [stood, id] = [stands.value, line.value];
    if (stood) takeOut();
    forget();
    if (!stood) return;
    if (scene.committed().some((m) => m.id === id)) void scene.commit("Cancel proposal");
    else if (!scene.dragging) scene.restore();
  }
  watch(stands, (now) => {
    if (now || !line.value) return;
    forget();
    gone();
  });
  return { line, stands, without, show, take, leave };
}
