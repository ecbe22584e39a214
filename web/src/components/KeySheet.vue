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
.sheet {
  position: absolute;
  right: 12px;
  top: 12px;
  z-index: 2;
  background: var(--panel);
  border: 1px solid var(--edge);
  border-radius: 4px;
  padding: 10px 14px;
  max-width: 420px;
}
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
