<script setup lang="ts">
/** The guide: one evening, from the card to the print. */
import MarkdownIt from "markdown-it";

import text from "../../../docs/guide.md?raw";

const pictures = import.meta.glob<string>(
  "../../../docs/screenshots/{gather,ground-plumb,light-worked,mend,proof}.png",
  { eager: true, query: "?url", import: "default" },
);
/** Its pictures, by the names they have in the text. */
const urls = Object.fromEntries(
  Object.entries(pictures).map(([path, url]) => [path.split("/docs/")[1]!, url]),
);
const reader = new MarkdownIt();
const own = reader.renderer.rules.image!;
reader.renderer.rules.image = (tokens, n, options, env, self) => {
  const token = tokens[n]!;
  const name = token.attrGet("src") ?? "";
  token.attrSet("src", urls[name] ?? name);
  return own(tokens, n, options, env, self);
};
const html = reader.render(text);
document.title = "One evening · Sun Latch";
</script>

<template>
  <main class="guide">
    <RouterLink class="plain" to="/">Back to Gather</RouterLink>
    <!-- eslint-disable-next-line vue/no-v-html -- our own text, read at build -->
    <article v-html="html" />
  </main>
</template>

<style scoped>
.guide {
  height: 100%;
  overflow: auto;
  padding: 24px max(24px, calc(50% - 400px));
}
.guide .plain {
  color: var(--ink);
  text-decoration: none;
}
article {
  font-size: 16px;
  line-height: 1.55;
}
article :deep(h1) {
  margin: 20px 0 8px;
  font-size: 28px;
  font-weight: 600;
}
article :deep(h2) {
  margin: 32px 0 8px;
  font-size: 20px;
  font-weight: 600;
}
article :deep(p) {
  margin: 10px 0;
}
article :deep(img) {
  display: block;
  width: 100%;
  border: 1px solid var(--line);
}
article :deep(code) {
  padding: 0 4px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--leaf);
}
</style>
