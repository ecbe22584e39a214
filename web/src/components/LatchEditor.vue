<script setup lang="ts">
/** A latch opened: its ingredients as rows that read downward, and how the whole is finished. */
import { ElSwitch } from "element-plus";
import { computed } from "vue";

import { MASK_LOOKS } from "../model/tint";
import { sentence, type Values } from "../model/wording";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";
import ParamControls from "./ParamControls.vue";

const scene = useScene();
const view = useView();
const latch = computed(() => scene.latch!);
const kindOf = (kind: string) => scene.ingredientKinds.find((k) => k.kind === kind)!;
const edge = computed(() => latch.value.edge_true as unknown as Values & { on: boolean });
const inUse = computed(() => scene.moves.filter((m) => m.latch === latch.value.id).length);

function rename(e: Event): void {
  const name = (e.target as HTMLInputElement).value.trim();
  if (!name || name === latch.value.name) return;
  latch.value.name = name;
  void scene.commit(`latch named ${name}`);
}
function drop(index: number): void {
  const gone = latch.value.ingredients!.splice(index, 1)[0]!;
  void scene.commit(`${kindOf(gone.kind).label} out of ${latch.value.name}`);
}
function removeLatch(): void {
  const gone = latch.value;
  scene.document!.latches = scene.latches.filter((l) => l.id !== gone.id) as never;
  scene.openLatch = null;
  void scene.commit(`removed latch ${gone.name}`);
}
function readAgain(): void {
  latch.value.read_at = scene.readAt();
  void scene.commit(`${latch.value.name} read again`);
}
</script>

<template>
  <section class="latch" aria-label="Latch">
    <header>
      <button class="plain" type="button" @click="scene.openLatch = null">‹ Ledger</button>
      <label class="hidden-label" for="latch-name">Name of the latch</label>
      <input id="latch-name" class="boxed name" :value="latch.name" @change="rename" />
    </header>
    <ul>
      <li
        v-for="(line, n) in latch.ingredients"
        :key="line.id"
        :class="{ open: scene.openIngredient === line.id }"
      >
        <div class="row">
          <select
            class="boxed join"
            :aria-label="`How ${kindOf(line.kind).label} joins`"
            :value="line.join"
            @change="
              (line as { join: string }).join = ($event.target as HTMLSelectElement).value;
              scene.commit(`${kindOf(line.kind).label} joins anew`);
            "
          >
            <option v-for="(word, key) in scene.vocabulary?.joins" :key="key" :value="key">{{ word }}</option>
          </select>
          <button
            class="plain sentence"
            type="button"
            :aria-expanded="scene.openIngredient === line.id"
            @click="scene.openIngredient = scene.openIngredient === line.id ? null : line.id"
          >
            {{ sentence(kindOf(line.kind), line.params as unknown as Values)
            }}{{ line.invert ? ", inverted" : "" }}
          </button>
          <ElSwitch
            v-model="(line as { on: boolean }).on"
            size="small"
            :aria-label="`${kindOf(line.kind).label} on or off`"
            @change="scene.commit(`${kindOf(line.kind).label} ${line.on ? 'on' : 'off'}`)"
          />
        </div>
        <div v-if="scene.openIngredient === line.id" class="body">
          <ParamControls
            :fields="kindOf(line.kind).fields"
            :values="line.params as unknown as Values"
            :scope="line.id!"
            @commit="scene.commit(`${kindOf(line.kind).label} of ${latch.name}`)"
          />
          <p v-if="line.kind === 'ramp'" class="quiet">Drag its two ends on the picture.</p>
          <label
            ><input
              type="checkbox"
              :checked="line.invert"
              @change="
                (line as { invert: boolean }).invert = !line.invert;
                scene.commit(`${kindOf(line.kind).label} inverted`);
              "
            />
            inverted</label
          >
          <button class="plain" type="button" @click="drop(n)">Take out</button>
        </div>
      </li>
    </ul>
    <div class="new">
      <span class="quiet">Ingredient</span>
      <button
        v-for="k in scene.ingredientKinds"
        :key="k.kind"
        class="plain"
        type="button"
        @click="scene.addIngredient(k, latch.ingredients?.length ? 'keep_only' : 'add')"
      >
        + {{ k.label }}
      </button>
    </div>
    <div class="finish">
      <label
        ><input
          v-model="edge.on"
          type="checkbox"
          @change="scene.commit(`${latch.name} ${edge.on ? '' : 'not '}edge-true`)"
        />
        Edge-true</label
      >
      <label
        ><input v-model="latch.invert" type="checkbox" @change="scene.commit(`${latch.name} inverted`)" />
        Invert the whole</label
      >
      <ParamControls
        v-if="edge.on"
        :fields="scene.vocabulary?.edge_true ?? []"
        :values="edge"
        :scope="`${latch.id}-e`"
        @commit="scene.commit(`Edge of ${latch.name}`)"
      />
      <ParamControls
        :fields="scene.vocabulary ? [scene.vocabulary.latch_strength] : []"
        :values="latch as unknown as Values"
        :scope="`${latch.id}-s`"
        @commit="scene.commit(`Strength of ${latch.name}`)"
      />
      <fieldset>
        <legend>Shown as</legend>
        <label v-for="(word, key) in MASK_LOOKS" :key="key" :class="{ on: view.look === key }"
          ><input v-model="view.look" class="hidden-label" type="radio" :value="key" />{{ word }}</label
        >
      </fieldset>
      <button class="plain" type="button" @click="readAgain">Read the picture again</button>
      <button class="plain" type="button" :disabled="inUse > 0" @click="removeLatch">
        {{ inUse ? `Used by ${inUse} ${inUse === 1 ? "move" : "moves"}` : "Remove latch" }}
      </button>
    </div>
    <div class="verbs">
      <span class="quiet">Latch a move</span>
      <button
        v-for="k in scene.lightKinds"
        :key="k.kind"
        class="plain"
        type="button"
        @click="
          scene.addMove(k, {}, latch.id);
          scene.openLatch = null;
        "
      >
        + {{ k.label }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.latch {
  flex: 1;
  overflow: auto;
}
header {
  display: flex;
  gap: 6px;
  padding: 8px;
}
.name {
  flex: 1;
  font-weight: 600;
  min-width: 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  border-top: 1px solid var(--line);
  padding: 4px 8px;
}
li.open {
  background: #f7f7f7;
  box-shadow: inset 3px 0 0 var(--accent);
}
.row {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 40px;
}
.join {
  width: 98px;
}
.sentence {
  flex: 1;
  text-align: left;
  padding: 3px 0;
}
.new,
.verbs,
.finish {
  border-top: 1px solid var(--line);
  padding: 6px 10px;
}
fieldset {
  border: 0;
  padding: 4px 0;
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}
fieldset label {
  padding: 3px 6px;
  border: 1px solid #a0a0a0;
  border-radius: 3px;
  cursor: pointer;
}
fieldset label.on {
  background: var(--accent-soft);
  border-color: var(--accent);
}
fieldset label:focus-within {
  outline: 2px solid var(--accent);
}
.finish > label {
  margin-right: 10px;
}
</style>
