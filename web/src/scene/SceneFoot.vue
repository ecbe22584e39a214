<script setup lang="ts">
/** The foot of a station: how the picture is looked at, how its work is saved, and the way to its file. */
import { ElButton, ElDropdownItem, ElDropdownMenu } from "element-plus";
import { useMediaQuery } from "@vueuse/core";
import { computed } from "vue";

import { CHECKS, labelOf, toldOf } from "../checks";
import SavingSays from "./SavingSays.vue";
import TrayStone from "../app/TrayStone.vue";
import { ZOOMS } from "../composables/scenekeys";
import { useDrawer } from "../stores/drawer";
import { useProof } from "../stores/proof";
import { useTour } from "../stores/tour";
import { SURROUNDS, useView, type Surround } from "../stores/view";
import GlyphMark from "../ui/GlyphMark.vue";
import MenuBox from "../ui/MenuBox.vue";

const emit = defineEmits<{ check: [what: string]; zoom: [zoom: number]; trueSize: [] }>();
const view = useView();
const proof = useProof();
const drawer = useDrawer();
const tour = useTour();
/** So narrow that all checks are in their menu. */
const narrow = useMediaQuery("(max-width: 899px)");
const checks = computed(() => CHECKS.filter((c) => c.fits?.() ?? true));
/** Those in sight, and those that are asked for. */
const first = computed(() => checks.value.filter((c) => /^[1-6]$/.test(c.key)));
const rest = computed(() => checks.value.filter((c) => !first.value.includes(c)));
const pinnedOfRest = computed(() => rest.value.find((c) => c.what === view.comparing));
/** The zoom, where it is none of these. */
const between = computed(() =>
  ZOOMS.some((z) => z.zoom === view.zoom) || view.zoom === proof.trueZoom
    ? ""
    : `${Math.round(view.zoom * 100)} %`,
);
function more(what: string): void {
  if (what) emit("check", what);
  else view.sheet = !view.sheet;
}
</script>

<template>
  <footer>
    <div class="seg" role="group" aria-label="Zoom">
      <button
        v-for="z in ZOOMS"
        :key="z.zoom"
        :class="{ on: view.zoom === z.zoom }"
        type="button"
        :aria-pressed="view.zoom === z.zoom"
        @click="emit('zoom', z.zoom)"
      >
        {{ z.label }}
      </button>
      <button
        v-if="view.station === 'Proof' && proof.paper"
        :class="{ on: proof.trueZoom > 0 && view.zoom === proof.trueZoom }"
        type="button"
        @click="emit('trueSize')"
      >
        True size
      </button>
    </div>
    <span v-if="between" class="numeral between">{{ between }}</span>
    <MenuBox placement="top-start" @command="(s: Surround) => (view.surround = s)">
      <ElButton size="small" class="surround" :aria-label="`Surround: ${view.surround}`"
        ><span class="chip" :class="view.surround" aria-hidden="true" /><span class="word"
          >&ensp;Surround</span
        ></ElButton
      >
      <template #dropdown>
        <ElDropdownMenu>
          <ElDropdownItem v-for="(says, s) in SURROUNDS" :key="s" :command="s">{{ says }}</ElDropdownItem>
        </ElDropdownMenu>
      </template>
    </MenuBox>
    <span class="rule" aria-hidden="true" />
    <div class="checks" role="group" aria-label="Compare">
      <button
        v-for="c in narrow ? [] : first"
        :key="c.what"
        class="bare"
        :class="{ on: view.comparing === c.what }"
        type="button"
        :aria-label="`${c.key} ${labelOf(c, view.station)}`"
        :aria-pressed="view.comparing === c.what"
        :data-help="toldOf(c, view.station)"
        @click="emit('check', c.what)"
      >
        <kbd>{{ c.key }}</kbd> <span class="word">{{ labelOf(c, view.station) }}</span>
      </button>
      <MenuBox placement="top" @command="more">
        <ElButton size="small" :class="{ on: pinnedOfRest || view.sheet }"
          >{{
            pinnedOfRest ? labelOf(pinnedOfRest, view.station) : narrow ? "Checks" : "More checks"
          }}&ensp;<GlyphMark name="down"
        /></ElButton>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem v-for="c in narrow ? checks : rest" :key="c.what" :command="c.what"
              ><kbd>{{ c.key }}</kbd
              >{{ labelOf(c, view.station) }}</ElDropdownItem
            >
            <ElDropdownItem divided command="">All checks on one sheet</ElDropdownItem>
          </ElDropdownMenu>
        </template>
      </MenuBox>
    </div>
    <button
      class="bare"
      type="button"
      aria-label="Watch places"
      data-help="Click places: their stops, now and as shot, stay beside them"
      :aria-pressed="view.tool === 'watch'"
      @click="view.tool = view.tool === 'watch' ? '' : 'watch'"
    >
      <GlyphMark name="watch" />
    </button>
    <span class="quiet waits" role="status">{{ view.waiting }}</span>
    <SavingSays />
    <button
      class="bare"
      type="button"
      aria-label="File info"
      data-help="How the frame was shot"
      :aria-pressed="drawer.open === 'facts'"
      @click="drawer.toggle('facts')"
    >
      <GlyphMark name="info" />
    </button>
    <button
      class="bare"
      type="button"
      aria-label="Shortcuts"
      data-help="All keys, and how to change them"
      :aria-pressed="drawer.open === 'keys'"
      @click="drawer.toggle('keys')"
    >
      <GlyphMark name="keys" />
    </button>
    <TrayStone />
    <ElButton
      size="small"
      :type="view.station === 'Mend' || view.tool || tour.step ? undefined : 'primary'"
      class="export"
      :aria-pressed="drawer.open === 'export'"
      @click="drawer.toggle('export')"
      >Export</ElButton
    >
  </footer>
</template>

<style scoped>
footer {
  display: flex;
  align-items: center;
  gap: 6px;
  flex: none;
  height: 40px;
  padding: 0 12px;
  border-top: 1px solid var(--line);
  white-space: nowrap;
  overflow: hidden;
}
.checks {
  display: flex;
  align-items: center;
  gap: 2px;
  flex: none;
}
.checks .bare {
  gap: 4px;
  font-size: 12px;
  color: var(--ink);
}
.rule {
  flex: none;
  width: 1px;
  height: 20px;
  background: var(--line);
}
.chip {
  display: inline-block;
  width: 14px;
  height: 14px;
  border: 1px solid var(--edge-2);
  border-radius: 2px;
  background: var(--surround);
}
.chip.white {
  background: var(--paper);
}
.chip.black {
  background: var(--night);
}
.waits {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  text-align: right;
}
.between {
  padding: 3px 4px;
  font-weight: 600;
}
.export {
  font-weight: 600;
}
@media (max-width: 1239px) {
  .word {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
}
</style>
