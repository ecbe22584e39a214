<script setup lang="ts">
/** Places that are watched, on the picture: how light a place is now, and how light the frame had it, in stops from middle grey. */
import { computed } from "vue";

import { signedStops } from "../model/wording";
import { onPicture, onStage, type Frame } from "../model/plane";
import { useWatched } from "../stores/watched";
import DotHandle from "./DotHandle.vue";

const props = defineProps<{ frame: Frame }>();
const watched = useWatched();
const shown = computed(() =>
  watched.places.flatMap((p, n) => {
    if (p.x < 0 || p.y < 0 || p.x > 1 || p.y > 1) return [];
    const read = watched.readings?.[n];
    const left = p.x > 0.85;
    return [
      {
        n,
        at: onStage(props.frame, p),
        aside: { dx: left ? -14 : 14, "text-anchor": left ? "end" : "start" },
        now: read ? signedStops(read.now) : "…",
        was: read && Math.abs(read.now - read.start) >= 0.05 ? `was ${signedStops(read.start)}` : "",
      },
    ];
  }),
);
</script>

<template>
  <g
    v-for="{ n, at, aside, now, was } in shown"
    :key="n"
    data-help="Stops from middle grey. Drag to move it, double-click or Delete to remove it"
  >
    <text :x="at.x" :y="at.y + (was ? -2 : 5)" v-bind="aside" class="now">{{ now }}</text>
    <text v-if="was" :x="at.x" :y="at.y + 13" v-bind="aside">{{ was }}</text>
    <DotHandle
      :at="at"
      :label="`Watched ${n + 1}: ${now} stops ${was}`"
      shape="hollow"
      @move="watched.move(n, onPicture(frame, $event))"
      @remove="watched.remove(n)"
      @turn="watched.remove(n)"
    />
  </g>
</template>

<style scoped>
text {
  fill: var(--mark);
  font-size: 12px;
  font-variant-numeric: tabular-nums;
  paint-order: stroke;
  stroke: rgb(0 0 0 / 70%);
  stroke-width: 3px;
}
.now {
  font-size: 14px;
  font-weight: 600;
}
</style>
