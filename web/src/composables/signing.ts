/** A form that asks for a password. */
import { ref } from "vue";

import { signIn } from "../api/client";

/** `then` is done once somebody is in. */
export function useSigning(then: () => unknown = () => undefined) {
  const password = ref("");
  const problem = ref("");
  const busy = ref(false);

  async function enter(name: string): Promise<void> {
    busy.value = true;
    problem.value = "";
    try {
      await signIn(name, password.value);
      password.value = "";
      await then();
    } catch (error) {
      problem.value = (error as Error).message;
    } finally {
      busy.value = false;
    }
  }
  return { password, problem, busy, enter };
}
