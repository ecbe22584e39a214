<script setup lang="ts">
/** A sky from another frame: the outing's frames to choose from, then how it lies, how the land follows, and whether it
 * belongs. */
import { ElSwitch } from "element-plus";
import { computed, ref, shallowRef, watch } from "vue";

import { client, need, type GroundLine, type SceneDocument, type Schemas } from "../../api/client";
import { framesOf } from "../../api/frames";
import { dropUnused } from "../../model/sources";
import { useSkies } from "../../stores/skies";
import { useScene } from "../../stores/scene";
import ParamControls from "../../scene/ParamControls.vue";
import ToolRow from "../../ui/ToolRow.vue";
import GlyphMark from "../../ui/GlyphMark.vue";

const scene = useScene();
const sky = computed(() => scene.document?.sky ?? null);
const kind = computed(() => scene.vocabulary?.moves.find((k) => k.kind === "new_sky"));
const name = computed(() => {
  const id = sky.value?.source;
  return (
    scene.opened?.sources.find((s) => s.id === id)?.name ??
    scene.document?.sources.find((s) => s.id === id)?.path ??
    "a frame"
  );
});
const PLACE = [{ tool: "place sky", word: "Move sky", hint: "Drag the sky on the picture" }];
const skies = useSkies();
const rows = shallowRef<Schemas["Belonging"][]>([]);
const fitting = computed(() =>
  rows.value
    .filter((r) => r.fits)
    .map((r) => r.description)
    .join(" "),
);
const open = ref(true);

function remedy(row: Schemas["Belonging"]): void {
  Object.assign(sky.value!.params as object, row.remedy ?? {});
  const own: Partial<Record<string, GroundLine>> = sky.value!.ground;
  for (const [line, values] of Object.entries(row.ground ?? {})) Object.assign(own![line]!.params, values);
  if (row.repairs?.length) {
    const held: { repairs: unknown[] } = sky.value!;
    held.repairs = [...held.repairs, ...row.repairs];
  }
  void scene.commit(`Sky: ${row.words}`);
}
/** What was done to its frame in a scene of its own: Ground and repairs, as they stand there now. */
async function asInItsScene(): Promise<void> {
  const source = scene.document!.sources.find((s) => s.id === sky.value!.source)!;
  const from = name.value;
  const { outing } = scene.opened!;
  await scene.errand("own sky", async (at) => {
    try {
      const isIt = (f: Schemas["FrameLine"]) => f.sha256 === source.sha256;
      const own = (await framesOf(outing, isIt)).find(isIt)?.scenes.at(-1);
      if (!own)
        throw new Error(`${from} has no scene of its own yet: make one at Gather and work on it there.`);
      const params = { path: { scene_id: own.id } };
      const got = await need(client.GET("/api/scenes/{scene_id}", { params }));
      const { ground, repairs } = got.revision.document as SceneDocument;
      if (!at.wanted() || at.now().sky?.source !== source.id) return;
      at.done(
        (document) => void Object.assign(document.sky!, { ground, repairs: repairs ?? [] }),
        "Copy edits of the sky's own scene",
      );
      if (at.open()) scene.notices.settle("mend");
    } catch (error) {
      if (at.open()) scene.notices.tell("mend", error as Error);
    }
  });
}
function takeOut(): void {
  const source = sky.value!.source;
  void scene.edit("Remove new sky", (draft) => {
    draft.sky = null;
    dropUnused(draft, source);
  });
}
let soon = 0;
watch(
  () => [scene.tick, sky.value?.on, scene.opened?.id],
  ([, , id], before) => {
    if (before && id !== before[2]) {
      rows.value = [];
    }
    window.clearTimeout(soon);
    if (!sky.value?.on) {
      rows.value = [];
      return;
    }
    soon = window.setTimeout(async () => {
      if (scene.dragging || !scene.opened) return;
      await scene.errand("belongs", async (at) => {
        const body = { document: at.now() as never };
        const params = { path: { scene_id: at.scene } };
        const got = await client
          .POST("/api/scenes/{scene_id}/mend/belongs", { params, body })
          .catch(() => null);
        if (at.here()) rows.value = got?.data ?? [];
      });
    }, 600);
  },
  { immediate: true },
);
</script>

<template>
  <div v-if="sky && kind" class="part">
    <template v-if="sky">
      <div class="head">
        <ElSwitch
          v-model="sky.on"
          size="small"
          aria-label="New sky on or off"
          @change="scene.commit(`Switch new sky ${sky.on ? 'on' : 'off'}`)"
        />
        <p class="sentence" @click="open = !open">
          <b>New sky</b> from {{ name }} on <b>{{ scene.nameOf(sky.latch) }}</b>
        </p>
        <button
          class="bare"
          type="button"
          :aria-expanded="open"
          :aria-label="open ? 'Close New sky' : 'Open New sky'"
          @click="open = !open"
        >
          <GlyphMark :name="open ? 'down' : 'right'" />
        </button>
      </div>
      <div v-if="open" class="body">
        <ToolRow label="Place" :tools="PLACE" />
        <ul v-if="rows.length" class="belongs" aria-label="Belongs">
          <li v-for="row in rows.filter((r) => !r.fits)" :key="row.what" class="not">
            {{ row.description }}
            <button v-if="row.words" class="plain" type="button" @click="remedy(row)">
              {{ row.words }}
            </button>
          </li>
          <li>{{ fitting }}</li>
        </ul>
        <ParamControls
          :fields="kind.fields"
          :values="sky.params"
          scope="new-sky"
          :sliders="['stops', 'relight', 'haze', 'water']"
          @commit="(label) => scene.commit(`${label} of the new sky`)"
        />
        <p class="acts">
          <button
            class="plain"
            type="button"
            data-help="Copies Ground and repairs from the scene its frame has of its own"
            @click="asInItsScene"
          >
            Copy edits from its own scene
          </button>
          <button class="plain" type="button" @click="skies.offer">Another sky</button>
          <button class="plain" type="button" @click="takeOut">Remove</button>
        </p>
      </div>
    </template>
  </div>
</template>

<style scoped>
.part {
  border-top: 1px solid var(--line);
  padding: 3px 12px;
}
.head {
  display: flex;
  align-items: center;
  gap: 7px;
  min-height: 34px;
}
.sentence {
  flex: 1;
  cursor: pointer;
}
.belongs {
  list-style: none;
  margin: 4px 0;
  padding: 0;
}
.belongs li {
  padding: 2px 0;
  color: var(--ink-2);
}
.belongs .not {
  color: var(--ink);
  font-weight: 600;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding: 6px 0;
}
</style>
