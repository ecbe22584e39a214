/** A change made by holding a key down: it is done when the key comes up, wherever that happens, or when whoever held it
 * looks elsewhere. Escape takes it back. */
import { onScopeDispose } from "vue";

import { useScene } from "../stores/scene";

export function useHeld() {
  const scene = useScene();
  let done: (() => void) | null = null;

  function finish(): void {
    const work = done;
    drop();
    work?.();
  }
  function drop(): void {
    done = null;
    window.removeEventListener("keyup", up, true);
    window.removeEventListener("keydown", down, true);
    window.removeEventListener("blur", finish);
    document.removeEventListener("focusout", finish, true);
    document.removeEventListener("visibilitychange", finish);
  }
  function up(e: KeyboardEvent): void {
    if (e.key.startsWith("Arrow")) finish();
  }
  function down(e: KeyboardEvent): void {
    if (e.key !== "Escape") return;
    e.stopPropagation();
    drop();
    if (scene.dragging) scene.restore();
  }
  /** A key has changed something; `work` is called once it is done. */
  function pressed(work: () => void): void {
    const fresh = done === null;
    done = work;
    if (!fresh) return;
    window.addEventListener("keyup", up, true);
    window.addEventListener("keydown", down, true);
    window.addEventListener("blur", finish);
    document.addEventListener("focusout", finish, true);
    document.addEventListener("visibilitychange", finish);
  }
  onScopeDispose(finish);
  return { pressed };
}
