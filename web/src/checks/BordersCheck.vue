<script setup lang="ts">
/** The four edges of the picture, magnified in a frame; what pulls the eye out is marked. */
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from "vue";

import { picture, type Schemas } from "../api/client";
import type { Region } from "../model/plane";
import { useRatio } from "../picture/ratio";
import { nextNumber, windowId } from "../stores/pictures";
import { useScene } from "../stores/scene";

type Mark = Schemas["BorderMark"];
type Side = Mark["side"];
const props = defineProps<{ stage: { width: number; height: number } }>();
const scene = useScene();
const DEEP = 0.045;
const marks = shallowRef<Mark[]>([]);
/** Whether the edges were looked at: not yet, or it was refused. */
const looked = ref<"waiting" | "done" | "failed">("waiting");
const strips = ref<Partial<Record<Side, string>>>({});
const room = 84;
const ratio = useRatio();
const aspect = computed(() => scene.plane!.width / scene.plane!.height);
const across = computed(() => DEEP * Math.max(1, 1 / aspect.value));
const down = computed(() => DEEP * Math.max(1, aspect.value));
const REGIONS = computed<Record<Side, Region>>(() => ({
  top: [0, 0, 1, down.value],
  bottom: [0, 1 - down.value, 1, 1],
  left: [0, 0, across.value, 1],
  right: [1 - across.value, 0, 1, 1],
}));
const sides: Side[] = ["top", "bottom", "left", "right"];

onMounted(async () => {
  const id = scene.opened!.id;
  const document = scene.current();
  for (const side of sides) {
    const region = REGIONS.value[side];
    const lying = side === "top" || side === "bottom";
    const got = await picture(`/api/scenes/${id}/picture`, {
      document,
      region,
      width: Math.round((lying ? props.stage.width - 2 * room : room) * ratio.value),
      height: Math.round((lying ? room : props.stage.height - 2 * room) * ratio.value),
      full: true,
      view: `${windowId}/border-${side}`,
      number: nextNumber(),
    }).catch(() => null);
    if (got) strips.value[side] = URL.createObjectURL(got.blob);
  }
  const found = await scene.find<Mark[]>("borders");
  marks.value = found ?? [];
  looked.value = found ? "done" : "failed";
});
onBeforeUnmount(() => Object.values(strips.value).forEach((url) => URL.revokeObjectURL(url)));
function style(m: Mark): Record<string, string> {
  const from = `${m.start * 100}%`;
  const long = `${(m.end - m.start) * 100}%`;
  return m.side === "top" || m.side === "bottom" ? { left: from, width: long } : { top: from, height: long };
}
const WORDS = { bright: "brighter than the area inside", cut: "cut by the edge" };
</script>

<template>
  <div class="borders">
    <div v-for="side in sides" :key="side" class="strip" :class="side">
      <img v-if="strips[side]" :src="strips[side]" :alt="`The ${side} edge`" />
      <i
        v-for="(m, n) in marks.filter((k) => k.side === side)"
        :key="n"
        class="mark"
        :class="m.what"
        :style="style(m)"
      />
    </div>
    <div class="words" role="status">
      <p v-if="looked === 'waiting'">Measuring …</p>
      <p v-else-if="looked === 'failed'">The edges could not be measured.</p>
      <p v-else-if="!marks.length">Nothing along the edges pulls the eye out.</p>
      <p v-for="(m, n) in marks.slice(0, 6)" :key="n">
        {{ m.side }}: {{ WORDS[m.what]
        }}<template v-if="m.what === 'bright'">, by {{ m.much.toFixed(0) }} L*</template>
      </p>
    </div>
  </div>
</template>

<style scoped>
.borders {
  position: absolute;
  inset: 0;
  background: var(--surround);
}
.strip {
  position: absolute;
  background: var(--ink-3);
}
.strip img {
  width: 100%;
  height: 100%;
  display: block;
}
.top,
.bottom {
  left: 84px;
  right: 84px;
  height: 84px;
}
.top {
  top: 0;
}
.bottom {
  bottom: 0;
}
.left,
.right {
  top: 84px;
  bottom: 84px;
  width: 84px;
}
.left {
  left: 0;
}
.right {
  right: 0;
}
.mark {
  position: absolute;
  background: var(--leaf);
  border: 1px solid var(--ink);
}
.mark.bright {
  background: var(--accent);
}
.top .mark,
.bottom .mark {
  height: 7px;
}
.top .mark {
  bottom: -8px;
}
.bottom .mark {
  top: -8px;
}
.left .mark,
.right .mark {
  width: 7px;
}
.left .mark {
  right: -8px;
}
.right .mark {
  left: -8px;
}
.words {
  position: absolute;
  inset: 110px;
  display: flex;
  flex-direction: column;
  justify-content: center;
  align-items: center;
}
.words p {
  background: var(--leaf);
  padding: 1px 8px;
}
</style>
