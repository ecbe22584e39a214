<script setup lang="ts">
import { ElButton, ElInput } from "element-plus";
import { ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import { me } from "../api/client";
import { useSigning } from "../composables/signing";

const name = ref("");
const route = useRoute();
const router = useRouter();
const { password, problem, busy, enter } = useSigning(() => {
  const next = route.query.next;
  return router.push(typeof next === "string" && /^\/(?!\/)/.test(next) ? next : "/");
});
if (route.query.link === "used")
  problem.value = "That link has been used, or is too old. Sign in with your password.";
void me();
</script>

<template>
  <main class="booth">
    <form class="card" @submit.prevent="enter(name)">
      <h1>Sun Latch</h1>
      <p class="quiet">Sign in to your outings.</p>
      <label for="name">Name</label>
      <ElInput id="name" v-model="name" autocomplete="username" autofocus />
      <label for="password">Password</label>
      <ElInput id="password" v-model="password" type="password" autocomplete="current-password" />
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <ElButton type="primary" native-type="submit" :loading="busy" :disabled="!name || !password"
        >Sign in</ElButton
      >
    </form>
  </main>
</template>

<style scoped>
.booth {
  height: 100%;
  display: grid;
  place-items: center;
  background: var(--surround);
}
.card {
  width: 320px;
  background: var(--panel);
  padding: 28px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  border-radius: 4px;
}
h1 {
  font-size: 22px;
  font-weight: 600;
}
label {
  margin-top: 6px;
}
.el-button {
  margin-top: 10px;
}
</style>
