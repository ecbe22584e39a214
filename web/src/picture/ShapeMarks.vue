<script setup lang="ts">
/** The handles of the open line of Reshape, and, where it is asked for, how far each part of the picture is stretched. */
import { computed } from "vue";

import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { bentGrid, flatOf, placesOf, stretches } from "../model/shapes";
import { useScene } from "../stores/scene";
import { useShape } from "../stores/shape";
import { useView } from "../stores/view";
import DotHandle, { type How } from "./DotHandle.vue";

const props = defineProps<{ frame: Frame }>();
const scene = useScene();
const shape = useShape();
const view = useView();
/** From where on a stretch is written on the picture. */
const TOLD = 1.05;
const toStage = (p: Spot) => onStage(props.frame, scene.plane!.toPicture(p));
const toSource = (p: Spot) => scene.plane!.toSource(onPicture(props.frame, p));
const line = computed(() => (shape.open?.kind === "reshape" ? shape.open : null));
const pins = computed(() => (line.value?.pins ?? []).map((pin) => ({ pin, at: toStage(pin) })));
const lines = computed(() =>
  (line.value?.lines ?? []).map((bent) => placesOf(bent.points).map((p) => toStage(p))),
);
const outlines = computed(() =>
  (line.value?.pulled ?? []).map((part) => drawn(placesOf(part.outline).map((p) => toStage(p)))),
);
const grid = computed(() =>
  shape.measured && scene.plane
    ? bentGrid(scene.plane).map((l) => drawn(l.map((p) => onStage(props.frame, p))))
    : [],
);
const figures = computed(() =>
  shape.measured && scene.plane
    ? stretches(scene.plane)
        .filter((s) => s.times >= TOLD)
        .map((s) => ({ at: onStage(props.frame, s.at), says: `${s.times.toFixed(2)}×` }))
    : [],
);
const drawn = (points: Spot[]) => points.map((p) => `${p.x},${p.y}`).join(" ");

let from = { dx: 0, dy: 0 };
function take(n: number): void {
  const { dx = 0, dy = 0 } = line.value!.pins[n]!;
  from = { dx, dy };
}
function carry(n: number, how: How): void {
  const box = scene.map!.box;
  const per = (box[2]! - box[0]!) / props.frame.width;
  const pin = line.value!.pins[n]!;
  [pin.dx, pin.dy] = [from.dx + how.dx * per, from.dy + how.dy * per];
  scene.touched();
}
function drop(n: number): void {
  line.value!.pins.splice(n, 1);
  void scene.commit("Remove pin");
}
function put(bent: number, n: number, to: Spot): void {
  const held = line.value!.lines[bent]!;
  const places = placesOf(held.points);
  places[n] = toSource(to);
  held.points = flatOf(places);
  scene.tick++;
}
function dropPlace(bent: number, n: number): void {
  const held = line.value!.lines[bent]!;
  const places = placesOf(held.points).filter((_, k) => k !== n);
  if (places.length < 2) line.value!.lines.splice(bent, 1);
  else held.points = flatOf(places);
  void scene.commit("Remove place");
}
</script>

<template>
  <g class="grid">
    <polyline v-for="(l, n) in grid" :key="n" :points="l" />
    <text v-for="(f, n) in figures" :key="`t${n}`" :x="f.at.x" :y="f.at.y">{{ f.says }}</text>
  </g>
  <template v-for="(o, n) in outlines" :key="`o${n}`">
    <polygon class="dark" :points="o" />
    <polygon class="ring" :points="o" />
  </template>
  <template v-for="(places, k) in lines" :key="`l${k}`">
    <polyline class="dark" :points="drawn(places)" />
    <polyline class="ring" :points="drawn(places)" />
    <template v-if="!view.tool || view.tool === 'bend'">
      <DotHandle
        v-for="(p, n) in places"
        :key="n"
        :at="p"
        shape="hollow"
        :label="`Line ${k + 1}, place ${n + 1}; Delete takes it out`"
        @move="put(k, n, $event)"
        @done="scene.commit('Move line')"
        @remove="dropPlace(k, n)"
      />
    </template>
  </template>
  <template v-if="!view.tool || view.tool === 'pin'">
    <DotHandle
      v-for="(p, n) in pins"
      :key="`p${n}`"
      :at="p.at"
      shape="square"
      :label="`Pin ${n + 1}; Delete takes it out`"
      @begin="take(n)"
      @move="(_, how) => carry(n, how)"
      @done="scene.commit('Move pin')"
      @remove="drop(n)"
    />
  </template>
</template>

<style scoped>
.dark,
.ring,
.grid polyline {
  fill: none;
  stroke: rgb(0 0 0 / 45%);
  stroke-width: 3;
}
.ring {
  stroke: var(--mark);
  stroke-width: 1.2;
}
.grid polyline {
  stroke: rgb(255 255 255 / 45%);
  stroke-width: 1;
}
.grid text {
  fill: var(--mark);
  stroke: rgb(0 0 0 / 65%);
  stroke-width: 3;
  paint-order: stroke;
  font-size: 12px;
  text-anchor: middle;
}
</style>
