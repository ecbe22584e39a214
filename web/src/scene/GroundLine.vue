<script setup lang="ts">
/** One line of Ground as a sentence; open, it shows its controls and what helps with them. */
import { ElSwitch } from "element-plus";
import { computed } from "vue";

import type { Kind } from "../api/client";
import { parts, type Values } from "../model/wording";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import EndsTools from "../stations/ground/EndsTools.vue";
import InlineNumber from "../ui/InlineNumber.vue";
import LensTools from "../stations/ground/LensTools.vue";
import LightTools from "../stations/ground/LightTools.vue";
import ParamControls from "./ParamControls.vue";
import PlumbTools from "../stations/ground/PlumbTools.vue";
import PreviewPicture from "./PreviewPicture.vue";
import ProjectionTools from "../stations/join/ProjectionTools.vue";
import RefocusTools from "../stations/mend/RefocusTools.vue";
import RenderingTools from "../stations/ground/RenderingTools.vue";
import TrimTools from "../stations/ground/TrimTools.vue";
import WhereLatched from "./WhereLatched.vue";
import GlyphMark from "../ui/GlyphMark.vue";

const props = defineProps<{ kind: Kind }>();
const scene = useScene();
const view = useView();
const TOOLS: Record<string, unknown> = {
  rendering: RenderingTools,
  colour_of_light: LightTools,
  lens: LensTools,
  plumb: PlumbTools,
  projection: ProjectionTools,
  refocus: RefocusTools,
  trim: TrimTools,
  ends: EndsTools,
};
/** Settings that the tools of a line set in their own way. */
const OWN: Record<string, string[]> = {
  rendering: ["setting"],
  projection: ["kind", "stretch"],
  trim: ["width", "height", "format", "way"],
};
const line = computed(() => scene.ground(props.kind.kind));
const values = computed(() => line.value.params as Values);
const open = computed(() => scene.openMove === props.kind.kind);
const untouched = computed(
  () =>
    line.value.on &&
    !line.value.latch &&
    props.kind.fields.every(
      (f) => JSON.stringify(values.value[f.name] ?? null) === JSON.stringify(initial(f)),
    ),
);
const fields = computed(() =>
  props.kind.fields.filter((f) => !OWN[props.kind.kind]?.includes(f.name) && applies(f.name)),
);
const latchName = computed(() => scene.nameOf(line.value.latch));
const earlier = computed(() => line.value.revision < props.kind.revision);

/** Whether a setting does anything as the others stand. */
function applies(name: string): boolean {
  return name !== "squeeze" || values.value.kind === "panini";
}
function initial(f: Kind["fields"][number]): unknown {
  return f.kind === "drawn" ? [] : (f.default ?? null);
}
function toggle(): void {
  view.tool = "";
  scene.openMove = open.value ? null : props.kind.kind;
}
function set(name: string, value: unknown): void {
  values.value[name] = value;
  scene.touched();
}
function done(words: string): void {
  line.value.why = "";
  void scene.commit(words);
}
function putBack(): void {
  const start = Object.fromEntries(props.kind.fields.map((f) => [f.name, structuredClone(initial(f))]));
  if (line.value.latch) line.value.latch = null;
  line.value.on = true;
  void scene.setGround(props.kind.kind, start, `Reset ${props.kind.label}`);
}
function renew(): void {
  line.value.revision = props.kind.revision;
  void scene.commit(`Update ${props.kind.label}`);
}
</script>

<template>
  <li class="line" :class="{ open, off: !line.on, still: untouched }">
    <div class="line-head">
      <ElSwitch
        v-model="line.on"
        size="small"
        :aria-label="`${kind.label} on or off`"
        @change="scene.commit(`Switch ${kind.label} ${line.on ? 'on' : 'off'}`)"
      />
      <p class="sentence" @click="toggle">
        <template v-for="(part, n) in parts(kind)" :key="n">
          <template v-if="'text' in part">{{ part.text }}</template>
          <InlineNumber
            v-else-if="part.field.kind === 'number'"
            :field="part.field"
            :value="values[part.field.name]"
            :name="`${kind.label}: ${part.field.label}`"
            @change="(v) => set(part.field.name, v)"
            @commit="done(kind.label)"
          />
          <b v-else>{{ part.field.words?.[values[part.field.name] as string] }}</b>
        </template>
        <template v-if="latchName">
          on <b>{{ latchName }}</b></template
        >
      </p>
      <button
        class="bare"
        type="button"
        :aria-expanded="open"
        :aria-label="open ? `Close ${kind.label}` : `Open ${kind.label}`"
        @click="toggle"
      >
        <GlyphMark :name="open ? 'down' : 'right'" />
      </button>
    </div>
    <p v-if="line.why" class="why">{{ line.why }}</p>
    <div v-if="open" class="body">
      <component :is="TOOLS[kind.kind]" v-if="TOOLS[kind.kind]" :kind="kind" />
      <ParamControls
        :fields="fields"
        :values="values"
        :scope="kind.kind"
        :automatic="scene.opened?.as_shot"
        @commit="done"
      />
      <WhereLatched v-if="kind.latched" :line="line" :said="kind.label" :scope="kind.kind" />
      <div v-if="earlier" class="newer">
        <p>Made with an older version of {{ kind.label }}. Left: now, right: new.</p>
        <div class="both">
          <PreviewPicture name="now" :kind="kind.kind" :values="{}" :width="130" />
          <PreviewPicture name="new" :kind="kind.kind" :values="{}" :width="130" :revision="kind.revision" />
        </div>
        <button class="plain" type="button" @click="renew">Update</button>
      </div>
      <button v-if="!untouched" class="plain back" type="button" @click="putBack">
        Reset {{ kind.label }}
      </button>
    </div>
  </li>
</template>

<style scoped>
.line.still .sentence {
  color: var(--dim);
}
.line-head {
  min-height: 28px;
}
.why {
  margin: 0 0 3px 47px;
  color: var(--ink-2);
  font-size: 12px;
}
.body {
  padding: 2px 0 6px;
}
.both {
  display: flex;
  gap: 6px;
  padding: 4px 0;
}
.back {
  margin-top: 6px;
}
</style>
