<script setup lang="ts">
/** Ways to say what the light was: as shot, by name, by pointing, by estimate. */
import { onMounted, ref, shallowRef, watch } from "vue";

import ChoiceBox from "../../ui/ChoiceBox.vue";
import { client, need, type Schemas } from "../../api/client";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import PreviewPicture from "../../scene/PreviewPicture.vue";

const scene = useScene();
const view = useView();
const named = shallowRef<Schemas["NamedLight"][]>([]);
const estimates = shallowRef<Schemas["Estimate"][]>([]);
const chosen = ref("");

onMounted(async () => {
  try {
    named.value = await need(client.GET("/api/lights"));
  } catch (error) {
    scene.notices.tell("lights", error);
  }
  estimates.value = (await scene.find<Schemas["Estimate"][]>("lights")) ?? [];
});
function set(kelvin: number | null, tint: number | null, words: string): void {
  const within = tint === null ? null : Math.min(Math.max(tint, -50), 50);
  void scene.setGround("colour_of_light", { kelvin, tint: within }, `Colour of light: ${words}`);
}
function byName(): void {
  const light = named.value.find((l) => l.name === chosen.value);
  if (light) set(Math.round(light.kelvin), Math.round(light.tint * 10) / 10, light.name);
  else set(null, null, "as shot");
}
watch(
  () => scene.ground("colour_of_light").params.kelvin,
  (kelvin) => {
    chosen.value = named.value.find((l) => Math.round(l.kelvin) === kelvin)?.name ?? "";
  },
);
</script>

<template>
  <div class="ways">
    <span>By name</span>
    <ChoiceBox
      label="Light by name"
      :value="chosen"
      :options="[
        { value: '', label: 'as shot' },
        ...named.map((l) => ({ value: l.name, label: `${l.name} (${Math.round(l.kelvin)} K)` })),
      ]"
      @choose="
        chosen = $event;
        byName();
      "
    />
    <button
      class="plain"
      :class="{ on: view.tool === 'neutral' }"
      type="button"
      :aria-pressed="view.tool === 'neutral'"
      @click="view.tool = view.tool ? '' : 'neutral'"
    >
      Pick something grey
    </button>
  </div>
  <p class="quiet">Estimated, if …</p>
  <div class="estimates">
    <button
      v-for="e in estimates"
      :key="e.method"
      class="choice"
      type="button"
      :disabled="e.kelvin === null"
      :data-help="e.trouble || `${e.kelvin} K, tint ${e.tint}`"
      @click="set(e.kelvin ?? null, e.tint ?? null, e.assumes)"
    >
      <PreviewPicture
        v-if="e.kelvin"
        :name="e.assumes"
        kind="colour_of_light"
        :values="{ kelvin: e.kelvin, tint: Math.min(Math.max(e.tint ?? 0, -50), 50) }"
        :width="84"
      />
      {{ e.assumes }}
    </button>
  </div>
  <p class="quiet">Hold 5 to see colour four times as strong: casts show.</p>
</template>

<style scoped>
.ways {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.ways > .el-select {
  flex: 1;
  min-width: 0;
}
.estimates {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 4px;
}
</style>
