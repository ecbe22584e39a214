<script setup lang="ts">
/** Relief as a table: three scales down, and across how much of each in darks, midtones and lights. */
import type { ParamField } from "../../api/client";
import type { Values } from "../../model/wording";
import { useScene } from "../../stores/scene";
import InlineNumber from "../../ui/InlineNumber.vue";

const props = defineProps<{ fields: ParamField[]; values: Values }>();
const scene = useScene();
const SCALES = ["coarse", "middle", "fine"];
const ZONES = ["darks", "midtones", "lights"];
const field = (name: string) => props.fields.find((f) => f.name === name)!;

function set(name: string, value: number): void {
  scene.put(props.values, name, value);
}
</script>

<template>
  <table>
    <thead>
      <tr>
        <th scope="col">Relief</th>
        <th scope="col">amount</th>
        <th v-for="z in ZONES" :key="z" scope="col">{{ z }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="s in SCALES" :key="s">
        <th scope="row">{{ field(s).label }}</th>
        <td v-for="name in [s, ...ZONES.map((z) => `${s}_${z}`)]" :key="name">
          <InlineNumber
            :field="field(name)"
            :value="values[name]"
            :name="`Relief ${name.replace('_', ' in ')}`"
            @change="(v) => set(name, v)"
            @commit="scene.commit(`Relief ${name.replace('_', ' in ')}`)"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
  margin-top: 4px;
}
th {
  font-weight: 400;
  text-align: left;
  color: var(--ink-2);
}
td {
  padding: 1px 2px;
}
</style>
