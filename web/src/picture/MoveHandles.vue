<script setup lang="ts">
/** What an open Light move has on the picture: where light is poured from, the rings of an edge fall. */
import { computed } from "vue";

import type { MoveLine } from "../api/client";
import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { within } from "../model/wording";
import { useScene } from "../stores/scene";
import DotHandle from "./DotHandle.vue";

const props = defineProps<{ move: MoveLine; frame: Frame }>();
const scene = useScene();
interface Pour {
  where: string;
  start: Spot;
  end: Spot;
}
interface Rings {
  centre: Spot | null;
  inner: number;
  outer: number;
  roundness: number;
}
const pour = computed(() => props.move.params as Pour);
const rings = computed(() => props.move.params as Rings);
const toStage = (p: Spot): Spot => onStage(props.frame, scene.plane!.toPicture(p));
const toSource = (p: Spot): Spot => scene.plane!.toSource(onPicture(props.frame, p));
const kind = computed(() =>
  props.move.kind === "poured_light" && pour.value.where !== "all" && pour.value.start
    ? "pour"
    : props.move.kind === "edge_fall"
      ? "rings"
      : "",
);
const ends = computed(() => [toStage(pour.value.start), toStage(pour.value.end)] as const);
const reach = computed(() =>
  Math.hypot(ends.value[1].x - ends.value[0].x, ends.value[1].y - ends.value[0].y),
);

const middle = computed(() =>
  rings.value.centre ? toStage(rings.value.centre) : onStage(props.frame, { x: 0.5, y: 0.5 }),
);
/** Half the axes of a ring of 100 %. */
const half = computed(() => {
  const [w, h] = [props.frame.width / 2, props.frame.height / 2];
  const r = rings.value.roundness;
  const even = Math.sqrt(w * h) ** r;
  return { x: w ** (1 - r) * even, y: h ** (1 - r) * even };
});
const SLOPE = Math.SQRT1_2;
const onRing = (ring: number): Spot => ({
  x: middle.value.x + ring * half.value.x * SLOPE,
  y: middle.value.y + ring * half.value.y * SLOPE,
});
function put(which: "start" | "end", to: Spot): void {
  if (which === "start") {
    // the whole light is carried
    const [from, end] = ends.value;
    pour.value.end = toSource({ x: end.x + to.x - from.x, y: end.y + to.y - from.y });
  }
  pour.value[which] = toSource(to);
  scene.touched();
}
function ring(which: "inner" | "outer", to: Spot): void {
  const x = (to.x - middle.value.x) / half.value.x;
  const y = (to.y - middle.value.y) / half.value.y;
  const kind = scene.lightKinds.find((k) => k.kind === props.move.kind);
  const field = kind!.fields.find((f) => f.name === which)!;
  rings.value[which] = within(field, Math.round(Math.hypot(x, y) * 100) / 100);
  scene.touched();
}
function centre(to: Spot): void {
  rings.value.centre = toSource(to);
  scene.touched();
}
</script>

<template>
  <g v-if="kind === 'pour'">
    <template v-for="shade in ['shade', 'line']" :key="shade">
      <circle v-if="pour.where === 'place'" :class="shade" :cx="ends[0].x" :cy="ends[0].y" :r="reach" />
      <path v-else :class="shade" :d="`M${ends[0].x} ${ends[0].y}L${ends[1].x} ${ends[1].y}`" />
    </template>
    <DotHandle
      :at="ends[0]"
      label="Poured light: where it starts"
      @move="put('start', $event)"
      @done="scene.commit('Move start of light')"
    />
    <DotHandle
      shape="square"
      :at="ends[1]"
      label="Poured light: as far as it reaches"
      @move="put('end', $event)"
      @done="scene.commit('Move end of light')"
    />
  </g>
  <g v-else-if="kind === 'rings'">
    <template v-for="shade in ['shade', 'line']" :key="shade">
      <ellipse
        v-for="r in [rings.inner, rings.outer]"
        :key="r"
        :class="shade"
        :cx="middle.x"
        :cy="middle.y"
        :rx="r * half.x"
        :ry="r * half.y"
      />
    </template>
    <DotHandle
      :at="middle"
      label="Edge fall: its middle"
      @move="centre"
      @done="scene.commit('Move middle of edge fall')"
    />
    <DotHandle
      v-for="which in ['inner', 'outer'] as const"
      :key="which"
      shape="square"
      :at="onRing(rings[which])"
      :label="`Edge fall: ${which} ring`"
      @move="ring(which, $event)"
      @done="scene.commit(`Size ${which} ring`)"
    />
  </g>
</template>
