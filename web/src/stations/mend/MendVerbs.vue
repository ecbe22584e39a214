<script setup lang="ts">
/** Mend's verbs, in one row above the picture they act on: what is taken out, what is shaped, another sky, a look. */
import { ElButton } from "element-plus";

import { useMend } from "../../stores/mend";
import { useSkies } from "../../stores/skies";
import { useView } from "../../stores/view";
import GlyphMark from "../../ui/GlyphMark.vue";
import { LOOK, SHAPE, TAKE_OUT } from "./verbs";

const mend = useMend();
const view = useView();
const skies = useSkies();
const ROWS = [
  { label: "Take out", tools: TAKE_OUT },
  { label: "Shape", tools: SHAPE },
];
function hold(tool: string): void {
  view.tool = view.tool === tool ? "" : tool;
}
</script>

<template>
  <div class="verbs-row verbs" role="group" aria-label="What can be done">
    <ElButton
      size="small"
      :type="mend.left ? 'primary' : undefined"
      data-help="Finds dust on the sensor and mends it, all at once"
      @click="mend.findSpecks"
      >Find specks<template v-if="mend.left">: {{ mend.left }}</template></ElButton
    >
    <template v-for="row in ROWS" :key="row.label">
      <span class="rule" aria-hidden="true" />
      <div class="tools" role="group" :aria-label="row.label">
        <button
          v-for="t in row.tools"
          :key="t.tool"
          class="plain"
          type="button"
          :data-help="t.hint"
          :aria-pressed="view.tool === t.tool"
          @click="hold(t.tool)"
        >
          <GlyphMark :name="t.glyph" /><span class="word">{{ t.word }}</span>
        </button>
      </div>
    </template>
    <span class="rule" aria-hidden="true" />
    <button
      class="plain"
      type="button"
      aria-label="Bring a sky from another frame"
      data-help="Bring a sky from another frame: the outing’s skies, those first that belong"
      :aria-pressed="!!skies.offered"
      @click="skies.offered ? skies.close() : skies.offer()"
    >
      <GlyphMark name="sky" /><span class="word">Sky</span>
    </button>
    <button
      v-for="t in LOOK"
      :key="t.tool"
      class="plain"
      type="button"
      :data-help="t.hint"
      :aria-pressed="view.tool === t.tool"
      @click="hold(t.tool)"
    >
      <GlyphMark :name="t.glyph" /><span class="word">{{ t.word }}</span>
    </button>
  </div>
</template>

<style scoped>
.verbs {
  /* in a narrow window they take a second row: none of them is out of sight */
  flex-wrap: wrap;
  gap: 2px 3px;
  padding: 0 8px;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
}
.verbs .plain {
  gap: 3px;
  padding: 3px 4px;
  border-radius: 3px;
  font-size: 12px;
}
.verbs .plain :deep(.glyph) {
  width: 13px;
  height: 13px;
}
</style>
