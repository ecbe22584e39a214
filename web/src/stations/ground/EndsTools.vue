<script setup lang="ts">
/** Finding the ends; while one is moved, what clips shows on the picture. */
import type { Schemas } from "../../api/client";
import { useScene } from "../../stores/scene";

const scene = useScene();

async function find(): Promise<void> {
  const found = await scene.find<Schemas["Ends"]>("ends");
  if (found) await scene.setGround("ends", { ...found }, "Find ends");
}
</script>

<template>
  <button class="plain" type="button" :disabled="scene.finding" @click="find">Find both ends</button>
  <p v-if="scene.state" class="quiet">
    {{ scene.state.frame.toFixed(1) }} % clipped in the frame; {{ scene.state.file.toFixed(1) }} % prints
    white, {{ scene.state.black.toFixed(1) }} % black.
  </p>
</template>
