<script setup lang="ts">
import SignInAgain from "./components/SignInAgain.vue";
</script>

<template>
  <RouterView />
  <SignInAgain />
</template>
