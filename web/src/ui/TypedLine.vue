<script setup lang="ts">
/** A line of text of the document's own. What is being typed stays while answers come in and the rest is drawn anew; it is
 * given once it is finished, and what was not taken is put back. */
import { nextTick, ref, watch } from "vue";

const props = defineProps<{ value: string }>();
const emit = defineEmits<{ done: [text: string] }>();
const text = ref(props.value);
let typing = false;

watch(
  () => props.value,
  (now) => {
    if (!typing) text.value = now;
  },
);
async function finish(): Promise<void> {
  if (!typing) return;
  typing = false;
  const now = text.value.trim();
  if (now !== props.value) emit("done", now);
  await nextTick();
  text.value = props.value;
}
</script>

<template>
  <input v-model="text" @input="typing = true" @change="finish" @blur="finish" />
</template>
