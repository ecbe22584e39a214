<script setup lang="ts">
import { ElButton, ElInput } from "element-plus";
import { ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import { me, signIn } from "../api/client";

const name = ref("");
const password = ref("");
const problem = ref("");
const busy = ref(false);
const route = useRoute();
const router = useRouter();
if (route.query.link === "used")
  problem.value = "That link has been used, or is too old. Sign in with your password.";
void me();

async function enter(): Promise<void> {
  busy.value = true;
  problem.value = "";
  try {
    await signIn(name.value, password.value);
    const next = route.query.next;
    await router.push(typeof next === "string" && /^\/(?!\/)/.test(next) ? next : "/");
  } catch (error) {
    problem.value = (error as Error).message;
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <main class="booth">
    <form class="card" @submit.prevent="enter">
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
