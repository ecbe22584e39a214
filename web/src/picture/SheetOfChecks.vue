<script setup lang="ts">
/** All checks on one sheet: the whole picture through each, small. */
import { onBeforeUnmount, shallowRef, watch } from "vue";

import { picture, type SceneDocument } from "../api/client";
import { checked, CHECKS, labelOf } from "../checks";
import type { Check } from "../checks/check";
import { oneByOne, nextNumber, windowId } from "../stores/pictures";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

const WIDE = 420;
const scene = useScene();
const view = useView();
/** Those that show something of their own when they are small. */
const shown = CHECKS.filter((c) => !c.over && c.what !== "mask" && c.what !== "line" && (c.fits?.() ?? true));
const urls = shallowRef<Record<string, string>>({});
let asked = 0;

async function ask(check: Check, mine: number): Promise<void> {
  const [id, size] = [scene.opened?.id, scene.map?.size];
  if (!id || !size || !scene.document) return;
  const document = checked(scene.document as SceneDocument, check, { station: view.station, line: null });
  const body = {
    document, full: false, view: `${windowId}/sheet/${check.what}`, number: nextNumber(), width: WIDE,
    height: Math.max(1, Math.round((WIDE * size[1]!) / size[0]!)), push: check.push ?? 1, show: check.shows ?? "picture",
    proof: check.proof ?? "",
  }; // prettier-ignore
  const got = await oneByOne(() => picture(`/api/scenes/${id}/picture`, body)).catch(() => null);
  if (!got || mine !== asked) return;
  if (urls.value[check.what]) URL.revokeObjectURL(urls.value[check.what]!);
  urls.value = { ...urls.value, [check.what]: URL.createObjectURL(got.blob) };
}
watch(
  () => scene.tick,
  () => {
    const mine = ++asked;
    for (const check of shown) void ask(check, mine);
  },
  { immediate: true },
);
onBeforeUnmount(() => {
  asked++;
  Object.values(urls.value).forEach((url) => URL.revokeObjectURL(url));
});
function look(check: Check): void {
  view.sheet = false;
  view.comparing = check.what;
  view.pinned = true;
}
</script>

<template>
  <section class="checks" aria-label="All checks">
    <ul>
      <li v-for="c in shown" :key="c.what">
        <button
          class="tile"
          type="button"
          :aria-label="`Look through ${labelOf(c, view.station)}`"
          @click="look(c)"
        >
          <img
            v-if="urls[c.what]"
            :src="urls[c.what]"
            alt=""
            :style="c.turned ? { transform: c.turned } : {}"
          />
          <span v-else class="blank">…</span>
          <span class="under">{{ labelOf(c, view.station) }}</span>
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.checks {
  height: 100%;
  padding: 12px;
  overflow: auto;
  background: var(--surround);
}
ul {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  gap: 12px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.tile {
  width: 100%;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
.tile img,
.blank {
  display: block;
  width: 100%;
  min-height: 120px;
}
.under {
  display: block;
  padding: 2px 8px;
  background: var(--panel);
}
</style>
