<script setup lang="ts">
/** One line that asks a name, or a folder. */
import { ElButton } from "element-plus";
import { onMounted, ref } from "vue";

const props = defineProps<{
  label: string;
  go: string;
  value?: string;
  placeholder?: string;
  busy?: boolean;
}>();
const emit = defineEmits<{ given: [name: string]; away: [] }>();
const name = ref(props.value ?? "");
const field = ref<HTMLInputElement>();
onMounted(() => {
  field.value?.focus();
  field.value?.select();
});
</script>

<template>
  <form class="ask" @submit.prevent="emit('given', name.trim())" @keydown.esc.stop="emit('away')">
    <label
      >{{ label }}
      <input
        ref="field"
        v-model="name"
        class="boxed"
        :placeholder="placeholder"
        autocomplete="off"
        maxlength="1000"
    /></label>
    <ElButton native-type="submit" :disabled="!name.trim() || busy">{{ go }}</ElButton>
    <button class="plain" type="button" @click="emit('away')">Cancel</button>
  </form>
</template>

<style scoped>
.ask {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 14px;
  border-bottom: 1px solid var(--line);
}
input {
  width: 420px;
  margin-left: 8px;
}
</style>
