<script setup lang="ts">
/** Under and over the picture at Proof: the sheet it lies on. */
import PaperSheet from "../../picture/PaperSheet.vue";
import { useProof } from "../../stores/proof";
import type { Over } from "../station";

defineProps<Over>();
const proof = useProof();
</script>

<template>
  <PaperSheet v-if="!check && proof.sheet" :frame="frame" />
</template>
