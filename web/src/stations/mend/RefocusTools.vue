<script setup lang="ts">
/** What helps with Refocus: a latch on what is stretched. */
import { computed } from "vue";

import type { IngredientLine } from "../../api/client";
import { stretches } from "../../model/shapes";
import { defaults, freshId } from "../../stores/scene/lines";
import { useScene } from "../../stores/scene";

const scene = useScene();
const line = computed(() => scene.ground("refocus"));
const kind = computed(() => scene.ingredientKinds.find((k) => k.kind === "stretched"));

/** The latch it is held by, where that is on what is stretched and nothing is: from which stretch on it would hold anything. */
const nothing = computed(() => {
  const held = scene.latches.find((l) => l.id === line.value.latch)?.ingredients ?? [];
  if (held.length !== 1 || held[0]!.kind !== "stretched" || !scene.plane) return null;
  const least = held[0]!.params!.least as number;
  return Math.max(...stretches(scene.plane).map((s) => s.times)) < least ? least : null;
});

/** Latch it to what lens, plumb, Reshape and Nudge have drawn out: to the latch there is, or a new one. */
function latch(): void {
  const held = scene.latches.find(
    (l) => l.ingredients.length === 1 && l.ingredients[0]!.kind === "stretched",
  );
  if (held) line.value.latch = held.id!;
  else {
    const made = scene.freshLatch(scene.freeName("Stretched"), false);
    made.ingredients = [
      {
        id: freshId(), kind: "stretched", revision: kind.value!.revision, join: "add", invert: false, on: true,
        params: defaults(kind.value!),
      } as IngredientLine,
    ]; // prettier-ignore
    scene.document!.latches.push(made);
    line.value.latch = made.id!;
  }
  void scene.commit("Refocus stretched parts");
}
</script>

<template>
  <button v-if="kind && !line.latch" class="plain" type="button" @click="latch">
    Only where the picture is stretched
  </button>
  <p v-if="nothing" class="quiet" role="status">
    Nothing is stretched {{ nothing.toFixed(2) }} × or more: it does nothing until Lens, Plumb, Projection,
    Reshape or Nudge draws the picture out.
  </p>
</template>
