<script setup lang="ts">
/** Marks over a check: where the eye goes, in order, now and before; or rims along edges, in stops. */
import { computed } from "vue";

import { client, need } from "../api/client";
import { useAsked } from "../composables/asked";
import { onStage, type Frame, type Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import { signedStops } from "../model/wording";

const props = defineProps<{ what: "squint" | "halos"; frame: Frame }>();
const scene = useScene();
const MOST = 14;

const asked = (what: typeof props.what) => () =>
  scene.opened && props.what === what ? { id: scene.opened.id, tick: scene.tick } : null;
const params = (id: string) => ({ params: { path: { scene_id: id } }, body: { document: scene.current() } });
const tell = (refusal: Error | null) =>
  refusal ? scene.notices.tell("check", refusal) : scene.notices.settle("check");
const { value: squint } = useAsked(
  asked("squint"),
  ({ id }, signal) => need(client.POST("/api/scenes/{scene_id}/squint", { ...params(id), signal })),
  tell,
);
const { value: rims } = useAsked(
  asked("halos"),
  ({ id }, signal) => need(client.POST("/api/scenes/{scene_id}/halos", { ...params(id), signal })),
  tell,
);
/** So near, long edges of the picture, the eye has arrived. */
const ARRIVED = 0.08;
const WHICH = ["first", "second", "third"];
/** Where one stopped, in the picture; and whether the eye comes there. */
const stopped = computed(() => {
  const place = scene.opened?.stopped;
  return place && scene.plane ? scene.plane.toPicture(place) : null;
});
const arrives = computed(() => {
  if (!stopped.value || !squint.value || !scene.plane) return "";
  const { width, height } = scene.plane;
  const away = (p: Spot) =>
    Math.hypot((p.x - stopped.value!.x) * width, (p.y - stopped.value!.y) * height) / Math.max(width, height);
  const n = squint.value.now.findIndex((p) => away(p) < ARRIVED);
  if (n < 0) return "It does not arrive where you stopped (the square).";
  return `It arrives ${WHICH[n]} where you stopped (the square).`;
});
const at = (p: { x: number; y: number }) => onStage(props.frame, p);
</script>

<template>
  <svg class="marks">
    <rect
      v-if="what === 'squint' && stopped"
      :x="at(stopped).x - 9"
      :y="at(stopped).y - 9"
      width="18"
      height="18"
    />
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
        <text :x="at(r).x" :y="at(r).y - 20">{{ signedStops(r.stops) }}</text>
      </g>
    </template>
  </svg>
  <p class="found" role="status">
    <template v-if="what === 'halos'">{{
      !rims
        ? "Looking along the edges …"
        : rims.length
          ? `${rims.length} ${rims.length === 1 ? "halo" : "halos"}, the worst ${signedStops(rims[0]!.stops)} stops.`
          : "No rims along strong edges."
    }}</template>
    <template v-else>{{
      !squint
        ? "Measuring …"
        : squint.now.length
          ? `1 is where the eye goes first now; rings show where it went before Light. ${arrives}`
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
circle,
rect {
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
