<script setup lang="ts">
/** A sheet of names and what belongs to them: the keys of a station, the facts of a frame. */
defineProps<{ label: string; rows: [string, string][] }>();
</script>

<template>
  <section class="sheet" :aria-label="label">
    <dl>
      <template v-for="[k, v] in rows" :key="k"
        ><dt>{{ k }}</dt>
        <dd class="numeral">{{ v }}</dd></template
      >
    </dl>
  </section>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px 14px;
  margin: 0;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0;
}
</style>
