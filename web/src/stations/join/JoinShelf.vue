<script setup lang="ts">
/** The shelf at Join: the frames the picture is made of, or those that could lend to it. */
import { useLoans } from "../../stores/loans";
import GlyphMark from "../../ui/GlyphMark.vue";
import JoinStrip from "./JoinStrip.vue";

const loans = useLoans();
</script>

<template>
  <section v-if="loans.offered" class="shelf-row" aria-label="Frames that can lend">
    <button
      v-for="{ frame: f, description, lends } in loans.offered"
      :key="f.id"
      class="one"
      type="button"
      :disabled="!lends"
      :aria-label="`${f.name}: ${description}`"
      @click="loans.lend(f)"
    >
      <img :src="`/api/frames/${f.id}/thumbnail?long=160`" alt="" />
      <span>{{ f.name }}</span>
      <span class="quiet">{{ description }}</span>
    </button>
    <button class="bare" type="button" aria-label="Cancel" @click="loans.close()">
      <GlyphMark name="remove" />
    </button>
  </section>
  <JoinStrip v-else />
</template>
