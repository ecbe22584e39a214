<script setup lang="ts">
/** One repair in words, with its place as a small picture; open, its few controls. */
import { vPoint } from "../../ui/point";
import { ElCheckbox, ElDropdownItem, ElDropdownMenu } from "element-plus";
import { computed } from "vue";

import { readsAs, type AnyRepair } from "../../model/repairs";
import { useMend } from "../../stores/mend";
import { useScene } from "../../stores/scene";
import GlyphMark from "../../ui/GlyphMark.vue";
import BandLine from "../../scene/BandLine.vue";
import InlineNumber from "../../ui/InlineNumber.vue";
import ParamControls from "../../scene/ParamControls.vue";
import PlacePicture from "./PlacePicture.vue";
import MenuBox from "../../ui/MenuBox.vue";

const props = defineProps<{ repair: AnyRepair; index: number }>();
const scene = useScene();
const mend = useMend();
const line = computed(() => props.repair);
const kind = computed(() => scene.vocabulary?.moves.find((k) => k.kind === line.value.kind));
const said = computed(() => readsAs(line.value, kind.value));
const pasted = computed(() =>
  line.value.kind === "heal" || line.value.kind === "clone" ? line.value : null,
);
const turning = computed(() => (scene.vocabulary?.take ?? []).filter((f) => f.kind === "number"));

/** How softly its strokes end: as the brush was, or as it is set here. */
const softness = computed(() => scene.vocabulary?.brush.find((f) => f.name === "soft"));
const strokes = computed(() => pasted.value?.area.strokes ?? []);
function soften(value: number): void {
  for (const stroke of strokes.value) stroke.soft = value;
  scene.touched();
}
function take(what: string, value: number): void {
  Object.assign(pasted.value!.take, { [what]: value });
  scene.touched();
}
function mirror(): void {
  pasted.value!.take.mirror = !pasted.value!.take.mirror;
  void scene.commit("Mirror source");
}
</script>

<template>
  <BandLine
    v-point="(on) => (mend.pointed = on ? line.id : '')"
    :line="line"
    :said="said"
    hint="Name: what it was"
    @focusin="mend.pointed = line.id"
    @focusout="mend.pointed = ''"
  >
    <template #picture><PlacePicture :repair="line" /></template>
    <ParamControls
      v-if="kind"
      :fields="kind.fields"
      :values="line.params"
      :scope="line.id"
      @commit="(label) => scene.commit(`${label} of ${said}`)"
    />
    <p v-if="softness && strokes.length">
      {{ softness.label }}
      <InlineNumber
        :field="softness"
        :value="strokes[0]!.soft ?? softness.default"
        :name="`${softness.label} of ${said}`"
        @change="soften"
        @commit="scene.commit(`${softness.label} of ${said}`)"
      />
    </p>
    <p v-if="pasted">
      Source:
      <template v-for="f in turning" :key="f.name">
        {{ f.label.toLowerCase() }}
        <InlineNumber
          :field="f"
          :value="pasted.take[f.name as 'turn' | 'scale'] ?? f.default"
          :name="`Source ${f.label.toLowerCase()}`"
          @change="(v) => take(f.name, v)"
          @commit="scene.commit(`Source ${f.label.toLowerCase()}`)"
        />,
      </template>
      <ElCheckbox size="small" :model-value="pasted.take.mirror" label="mirrored" @change="mirror" />
    </p>
    <p v-if="line.kind === 'specks'" class="quiet">
      With Spot in hand, point at a ringed one to leave it, or at another to add it.
    </p>
    <slot />
    <template #acts>
      <button class="plain" type="button" @click="mend.remove(line, said)">Remove</button>
      <MenuBox @command="(by: number) => mend.shift(line, by as 1 | -1)">
        <button class="plain" type="button" :aria-label="`${said}: more`"><GlyphMark name="more" /></button>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem :command="-1" :disabled="index === 0">Move up</ElDropdownItem>
            <ElDropdownItem :command="1" :disabled="index === mend.repairs.length - 1"
              >Move down</ElDropdownItem
            >
          </ElDropdownMenu>
        </template>
      </MenuBox>
    </template>
  </BandLine>
</template>
