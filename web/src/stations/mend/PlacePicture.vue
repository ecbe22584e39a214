<script setup lang="ts">
/** A small picture of the place of a repair, as it is now. */
import { onBeforeUnmount, ref, watch } from "vue";

import { picture } from "../../api/client";
import { boxOf, type AnyRepair } from "../../model/repairs";
import { nextNumber, windowId } from "../../stores/pictures";
import { useScene } from "../../stores/scene";

const props = defineProps<{ repair: AnyRepair }>();
const scene = useScene();
const source = ref("");
const WIDTH = 40;
/** Ms after the last change of it: a drag is let go by. */
const SOON = 700;
let gone = false;
let soon = 0;

function later(): void {
  window.clearTimeout(soon);
  soon = window.setTimeout(() => void ask(), SOON);
}
async function ask(): Promise<void> {
  if (scene.dragging) return later();
  if (!scene.opened || !scene.plane) return;
  const [x0, y0, x1, y1] = boxOf(props.repair);
  const corners = [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
  ].map(([x, y]) => scene.plane!.toPicture({ x: x!, y: y! }));
  const [xs, ys] = [corners.map((p) => p.x), corners.map((p) => p.y)];
  const [w, h] = scene.map!.size as [number, number];
  const half =
    (Math.max((Math.max(...xs) - Math.min(...xs)) * w, (Math.max(...ys) - Math.min(...ys)) * h, 60) * 1.5) /
    2;
  const clip = (v: number) => Math.min(1, Math.max(0, v));
  const [mx, my] = [(Math.max(...xs) + Math.min(...xs)) / 2, (Math.max(...ys) + Math.min(...ys)) / 2];
  const region = [clip(mx - half / w), clip(my - half / h), clip(mx + half / w), clip(my + half / h)];
  if (region[2]! - region[0]! < 1e-4 || region[3]! - region[1]! < 1e-4) return;
  const shape = ((region[3]! - region[1]!) * h) / ((region[2]! - region[0]!) * w);
  const got = await picture(`/api/scenes/${scene.opened.id}/picture`, {
    document: scene.current(), region, full: false, view: `${windowId}/place ${props.repair.id}`.slice(0, 64),
    number: nextNumber(), width: WIDTH * 2, height: Math.max(1, Math.min(200, Math.round(WIDTH * 2 * shape))),
  }).catch(() => null); // prettier-ignore
  if (!got || gone) return;
  if (source.value) URL.revokeObjectURL(source.value);
  source.value = URL.createObjectURL(got.blob);
}
watch(() => JSON.stringify(props.repair), later, { immediate: true });
onBeforeUnmount(() => {
  gone = true;
  window.clearTimeout(soon);
  if (source.value) URL.revokeObjectURL(source.value);
});
</script>

<template>
  <span class="place"><img v-if="source" :src="source" alt="" /></span>
</template>

<style scoped>
.place {
  width: 40px;
  height: 30px;
  overflow: hidden;
  background: var(--rule);
  flex: none;
}
img {
  width: 40px;
  height: 30px;
  object-fit: cover;
  display: block;
}
</style>
