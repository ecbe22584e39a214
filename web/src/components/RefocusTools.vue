<script setup lang="ts">
/** What helps with Refocus: a latch on what is stretched. */
import { computed } from "vue";

import type { IngredientLine } from "../api/client";
import { defaults, freshId } from "../stores/scene/lines";
import { useScene } from "../stores/scene";

const scene = useScene();
const line = computed(() => scene.ground("refocus"));
const kind = computed(() => scene.ingredientKinds.find((k) => k.kind === "stretched"));

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
  void scene.commit("Refocus where it is stretched");
}
</script>

<template>
  <button v-if="kind && !line.latch" class="plain" type="button" @click="latch">
    Only where the picture is stretched
  </button>
</template>
