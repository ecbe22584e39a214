<script setup lang="ts">
/** Marks over a check: where the eye goes, in order, now and before; or rims along edges, in stops. */
import { ref, watch } from "vue";

import { client, need, type Schemas } from "../api/client";
import { onStage, type Frame } from "../model/plane";
import { useScene } from "../stores/scene";

const props = defineProps<{ what: "squint" | "halos"; frame: Frame }>();
const scene = useScene();
const squint = ref<Schemas["Squint"] | null>(null);
const rims = ref<Schemas["Rim"][] | null>(null);
const MOST = 14;

async function ask(): Promise<void> {
  if (!scene.opened) return;
  const params = { path: { scene_id: scene.opened.id } };
  const body = { document: scene.current() };
  try {
    if (props.what === "squint")
      squint.value = await need(client.POST("/api/scenes/{scene_id}/squint", { params, body }));
    else rims.value = await need(client.POST("/api/scenes/{scene_id}/halos", { params, body }));
    scene.notices.settle("check");
  } catch (error) {
    scene.notices.tell("check", error);
  }
}
watch([() => props.what, () => scene.tick], ask, { immediate: true });
const at = (p: { x: number; y: number }) => onStage(props.frame, p);
const stops = (v: number) => `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1)}`;
</script>

<template>
  <svg class="marks">
    <template v-if="what === 'squint' && squint">
      <g v-for="(p, n) in squint.start" :key="`b${n}`" class="before">
        <circle :cx="at(p).x" :cy="at(p).y" r="15" />
        <text :x="at(p).x" :y="at(p).y - 19">{{ n + 1 }} before</text>
      </g>
      <g v-for="(p, n) in squint.now" :key="`n${n}`">
        <circle :cx="at(p).x" :cy="at(p).y" r="22" />
        <text :x="at(p).x" :y="at(p).y + 7" class="big">{{ n + 1 }}</text>
      </g>
    </template>
    <template v-if="what === 'halos' && rims">
      <g v-for="(r, n) in rims.slice(0, MOST)" :key="n">
        <circle :cx="at(r).x" :cy="at(r).y" r="16" />
        <text :x="at(r).x" :y="at(r).y - 20">{{ stops(r.stops) }}</text>
      </g>
    </template>
  </svg>
  <p class="found" role="status">
    <template v-if="what === 'halos'">{{
      !rims
        ? "Looking along the edges …"
        : rims.length
          ? `${rims.length} ${rims.length === 1 ? "halo" : "halos"}, the worst ${stops(rims[0]!.stops)} stops.`
          : "No rims along strong edges."
    }}</template>
    <template v-else>{{
      !squint
        ? "Measuring …"
        : squint.now.length
          ? "1 is where the eye goes first now; rings show where it went before Light."
          : "Nothing draws the eye more than the rest."
    }}</template>
  </p>
</template>

<style scoped>
.marks {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
circle {
  fill: none;
  stroke: var(--mark);
  stroke-width: 2;
  filter: drop-shadow(0 0 1.5px var(--night));
}
.before circle {
  stroke-width: 1;
  stroke-dasharray: 4 3;
}
text {
  fill: var(--mark);
  text-anchor: middle;
  font-size: 12px;
  paint-order: stroke;
  stroke: rgb(0 0 0 / 70%);
  stroke-width: 3px;
}
.big {
  font-size: 19px;
}
.found {
  position: absolute;
  left: 50%;
  top: 8px;
  transform: translateX(-50%);
  background: rgb(245 245 245 / 92%);
  padding: 2px 10px;
  border-radius: 3px;
}
</style>
