/** Who is signed in, and whether that has ended. Losing the network ends no session. */
import { defineStore } from "pinia";
import { ref } from "vue";

export const useSession = defineStore("session", () => {
  const name = ref("");
  /** The server said that nobody is signed in any more, while somebody was at work. */
  const ended = ref(false);
  const again = new Set<() => void>();

  /** To be told when somebody has signed in again. */
  function onceSignedIn(work: () => void): () => void {
    again.add(work);
    return () => again.delete(work);
  }
  function signedIn(who: string): void {
    name.value = who;
    ended.value = false;
    for (const work of again) work();
  }
  return { name, ended, onceSignedIn, signedIn };
});
