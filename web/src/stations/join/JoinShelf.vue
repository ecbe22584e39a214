<script setup lang="ts">
/** The shelf at Join: the frames the picture is made of, or those that could lend to it. */
import { useLoans } from "../../stores/loans";
import GlyphMark from "../../ui/GlyphMark.vue";
import JoinStrip from "./JoinStrip.vue";

const loans = useLoans();
</script>

<template>
  <section v-if="loans.offered" class="lenders" aria-label="Frames that can lend">
    <button
      v-for="{ frame: f, said, lends } in loans.offered"
      :key="f.id"
      class="one"
      type="button"
      :disabled="!lends"
      :aria-label="`${f.name}: ${said}`"
      @click="loans.lend(f)"
    >
      <img :src="`/api/frames/${f.id}/thumbnail?long=160`" alt="" />
      <span>{{ f.name }}</span>
      <span class="quiet">{{ said }}</span>
    </button>
    <button class="bare" type="button" aria-label="Cancel" @click="loans.close()">
      <GlyphMark name="remove" />
    </button>
  </section>
  <JoinStrip v-else />
</template>

<style scoped>
.lenders {
  display: flex;
  gap: 10px;
  flex: none;
  min-height: 104px;
  padding: 8px 12px;
  border-top: 1px solid var(--line);
  overflow: auto hidden;
}
.one {
  flex: none;
  display: grid;
  grid-template-rows: 64px auto auto;
  width: 104px;
  padding: 0;
  border: 0;
  background: none;
  text-align: left;
  font-size: 12px;
  line-height: 15px;
  cursor: pointer;
}
.one:disabled {
  opacity: 0.55;
  cursor: default;
}
.one img {
  width: 100%;
  height: 64px;
  object-fit: cover;
  border: 1px solid var(--edge);
  border-radius: 3px;
}
.one:hover:not(:disabled) img {
  border-color: var(--accent);
}
</style>
