<script setup lang="ts">
/** Where repairs lie on the picture: the one that is open or pointed at is ringed, with a handle at each end, joined by a
 * thread; specks while they are looked for. */
import { computed } from "vue";

import { onPicture, onStage, type Frame, type Spot } from "../model/plane";
import { carried, middleOf, shapesOf, wirePath, type AnyRepair } from "../model/repairs";
import { useMend } from "../stores/mend";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import DotHandle from "./DotHandle.vue";

const props = defineProps<{ frame: Frame }>();
const scene = useScene();
const view = useView();
const mend = useMend();
const toStage = (p: Spot) => onStage(props.frame, scene.plane!.toPicture(p));
const toSource = (p: Spot) => scene.plane!.toSource(onPicture(props.frame, p));
const scale = computed(() => {
  const box = scene.map!.box;
  return props.frame.width / (box[2]! - box[0]!);
});
const looking = computed(() => view.tool === "speck" || view.comparing === "specks");
/** The open one, where it takes light from another place. */
const pasted = computed(() => {
  const open = mend.open;
  return open && (open.kind === "heal" || open.kind === "clone") ? open : null;
});
/** Lines whose places are ringed: the one pointed at, and the open one while no brush is in hand; but a wire only while it is
 * pointed at, for a line left over the picture where it was would read as that wire. */
const shown = computed(() =>
  mend.repairs.filter(
    (r) =>
      (r.id === mend.open?.id && !view.tool && r.kind !== "wire") ||
      r.id === mend.pointed ||
      (r.kind === "specks" && looking.value),
  ),
);
const drawn = (points: Spot[]) =>
  points
    .map(toStage)
    .map((p) => `${p.x},${p.y}`)
    .join(" ");
type Drawn = ReturnType<typeof shapesOf>[number];
const along = ({ points }: Drawn) => drawn(points.length > 1 ? points : [points[0]!, points[0]!]);
const across = ({ radius }: Drawn) => 2 * radius * scale.value;
const ends = computed(() => {
  const repair = pasted.value;
  if (!repair) return null;
  const at = middleOf(repair);
  return { place: toStage(at), take: toStage({ x: at.x + repair.take.dx, y: at.y + repair.take.dy }) };
});
function putTake(to: Spot): void {
  const repair = pasted.value!;
  const [at, from] = [middleOf(repair), toSource(to)];
  repair.take.dx = from.x - at.x;
  repair.take.dy = from.y - at.y;
  scene.touched();
}
function putPlace(to: Spot): void {
  const repair = pasted.value!;
  const [at, next] = [middleOf(repair), toSource(to)];
  repair.area = carried(repair.area, next.x - at.x, next.y - at.y);
  scene.touched();
}
/** What the open one may be grown from, and what never. */
const limits = computed(() => {
  const open = mend.open;
  if (open?.kind !== "regrow" || view.tool) return [];
  const named = [
    { area: open.source, says: "from here" },
    { area: open.spared, says: "never from here" },
  ];
  return named.flatMap(({ area, says }) =>
    area ? shapesOf(area).map((s) => ({ points: drawn(s.points), at: toStage(s.points[0]!), says })) : [],
  );
});
const isOn = (repair: AnyRepair, on: boolean) => (repair.on && on ? "ring" : "ring off");
</script>

<template>
  <g v-for="repair in shown" :key="repair.id">
    <template v-if="repair.kind === 'specks'">
      <template v-for="(s, n) in repair.spots" :key="n">
        <circle class="dark" :cx="toStage(s).x" :cy="toStage(s).y" :r="Math.max(s.radius * scale, 6)" />
        <circle
          :class="isOn(repair, s.on)"
          :cx="toStage(s).x"
          :cy="toStage(s).y"
          :r="Math.max(s.radius * scale, 6)"
        />
      </template>
    </template>
    <template v-else-if="repair.kind === 'wire'">
      <polyline class="dark" :points="drawn(wirePath(repair))" />
      <polyline :class="isOn(repair, true)" :points="drawn(wirePath(repair))" />
    </template>
    <template v-for="(shape, n) in shapesOf(repair.area)" v-else :key="n">
      <polygon v-if="shape.closed" class="dark" :points="drawn(shape.points)" />
      <polygon v-if="shape.closed" :class="isOn(repair, true)" :points="drawn(shape.points)" />
      <template v-else>
        <mask
          :id="`rim-${repair.id}-${n}`"
          maskUnits="userSpaceOnUse"
          x="-10000"
          y="-10000"
          width="20000"
          height="20000"
        >
          <rect x="-10000" y="-10000" width="20000" height="20000" fill="white" />
          <polyline class="broad" stroke="black" :points="along(shape)" :stroke-width="across(shape)" />
        </mask>
        <g :mask="`url(#rim-${repair.id}-${n})`">
          <polyline class="broad dim" :points="along(shape)" :stroke-width="across(shape) + 4" />
          <polyline class="broad rim" :points="along(shape)" :stroke-width="across(shape) + 2" />
        </g>
      </template>
    </template>
  </g>
  <g v-for="(limit, n) in limits" :key="n">
    <polygon class="dark" :points="limit.points" />
    <polygon class="ring limit" :points="limit.points" />
    <text class="says" :x="limit.at.x" :y="limit.at.y - 6">{{ limit.says }}</text>
  </g>
  <g v-if="ends && !view.tool">
    <line class="dark" :x1="ends.place.x" :y1="ends.place.y" :x2="ends.take.x" :y2="ends.take.y" />
    <line class="ring" :x1="ends.place.x" :y1="ends.place.y" :x2="ends.take.x" :y2="ends.take.y" />
    <DotHandle
      :at="ends.take"
      label="Where it is taken from"
      shape="hollow"
      @move="putTake"
      @done="scene.commit('Move source')"
    />
    <DotHandle
      :at="ends.place"
      label="Where it is mended; Delete takes it out"
      @move="putPlace"
      @done="scene.commit('Move repair')"
      @remove="mend.remove(pasted!, 'A repair')"
    />
  </g>
</template>

<style scoped>
.dark,
.ring {
  fill: none;
  stroke: rgb(0 0 0 / 45%);
  stroke-width: 3;
}
.ring {
  stroke: var(--mark);
  stroke-width: 1.2;
}
.ring.limit {
  stroke-dasharray: 1 4;
  stroke-width: 2;
}
.says {
  font-size: 12px;
  fill: var(--mark);
  stroke: rgb(0 0 0 / 60%);
  stroke-width: 3px;
  paint-order: stroke;
}
.ring.off {
  stroke-dasharray: 3 3;
}
.broad {
  fill: none;
  stroke-linecap: round;
  stroke-linejoin: round;
}
.dim {
  stroke: rgb(0 0 0 / 45%);
}
.rim {
  stroke: var(--mark);
}
</style>
