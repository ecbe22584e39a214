<script setup lang="ts">
import SignInAgain from "./app/SignInAgain.vue";
</script>

<template>
  <RouterView />
  <SignInAgain />
</template>
