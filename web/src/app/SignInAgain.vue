<script setup lang="ts">
/** The session has ended: the password is asked for in place, and what was done goes on. */
import { ElButton, ElInput } from "element-plus";
import { nextTick, ref, watch } from "vue";

import { useSigning } from "../composables/signing";
import { useSession } from "../stores/session";

const session = useSession();
const { password, problem, busy, enter } = useSigning();
const box = ref<InstanceType<typeof ElInput>>();
watch(
  () => session.ended,
  async (ended) => {
    if (!ended) return;
    await nextTick();
    box.value?.focus();
  },
  { immediate: true },
);
</script>

<template>
  <div v-if="session.ended" class="again" role="dialog" aria-modal="false" aria-label="Sign in again">
    <form @submit.prevent="enter(session.name)" @keydown.stop @keyup.stop>
      <p>You have been signed out. Everything you did is still here; it is saved once you are in again.</p>
      <label for="again">Password of {{ session.name }}</label>
      <div class="row">
        <ElInput
          id="again"
          ref="box"
          v-model="password"
          type="password"
          autocomplete="current-password"
          size="default"
        />
        <ElButton type="primary" native-type="submit" :loading="busy" :disabled="!password">Sign in</ElButton>
      </div>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    </form>
  </div>
</template>

<style scoped>
.again {
  position: fixed;
  z-index: 20;
  top: 54px;
  left: 50%;
  width: 380px;
  transform: translateX(-50%);
  padding: 12px 16px 14px;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 3px;
  box-shadow: 0 2px 10px rgb(0 0 0 / 25%);
}
label {
  display: block;
  margin-top: 10px;
}
.row {
  display: flex;
  gap: 8px;
  margin-top: 4px;
}
</style>
