<script setup lang="ts">
/** What can be done at Light: an edit that is typed, one chosen by its question, light painted, a problem pointed at. */
import { ElButton } from "element-plus";
import { computed, onMounted, ref } from "vue";

import type { Kind } from "../../api/client";
import { useDodging } from "../../composables/dodging";
import { typedMove, type TypedMove } from "../../model/wording";
import { useHabits } from "../../stores/habits";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import GlyphMark from "../../ui/GlyphMark.vue";
import { useUsed } from "../../ui/used";
import HabitMenu from "./HabitMenu.vue";
import KindItems from "../../ui/KindItems.vue";
import MenuBox from "../../ui/MenuBox.vue";

const scene = useScene();
const view = useView();
const habits = useHabits();
const dodging = useDodging();
const used = useUsed("moves");
onMounted(() => void habits.load());
const text = ref("");
const said = ref("");
/** Questions as they read on a button. */
const SHORT: Record<string, string> = {
  "What colour is it?": "What colour?",
  "What hangs in the air?": "In the air",
  "Where does the eye go?": "The eye",
};
const ORDER = ["How bright?", "What colour is it?", "What hangs in the air?", "Where does the eye go?"];
/** Moves by the question they answer; those chosen last come first. */
const asked = computed(() =>
  ORDER.map((question) => {
    const kinds = scene.lightKinds.filter((k) => k.group === question);
    const rank = (k: Kind) => (used.last.value.includes(k.kind) ? used.last.value.indexOf(k.kind) : 99);
    return { question, kinds: [...kinds].sort((a, b) => rank(a) - rank(b)) };
  }),
);
function choose(kind: Kind): void {
  used.use(kind.kind);
  scene.openLatch = null;
  scene.addMove(kind);
}
function keepAll(): void {
  void habits.keepMoves(
    scene.moves.map((m) => m.id),
    `Light of ${scene.opened!.name}`,
  );
}
/** A move that was written for a latch that is not there; what the latch could be made of, where its name says so. */
const missing = ref<(TypedMove & { make: Kind | null }) | null>(null);
function done(): void {
  said.value = text.value = "";
  missing.value = null;
}
/** Make the latch, and the move on it. */
function makeLatch(): void {
  const { kind, values, make } = missing.value!;
  done();
  scene.openMove = null; // the latch is for the move that was written, not for one that is open
  scene.addLatch(make!);
  scene.addMove(kind, values, scene.openLatch);
  scene.openLatch = null;
}
function everywhere(): void {
  const { kind, values } = missing.value!;
  done();
  scene.addMove(kind, values);
}
function add(): void {
  const move = typedMove(text.value, scene.lightKinds, scene.latches);
  if (!move) {
    said.value = `Begin with a verb: ${scene.lightKinds.flatMap((k) => k.verbs?.slice(0, 1) ?? []).join(", ")} …`;
    return;
  }
  if (move.unknown) {
    // held nowhere it would act on the whole picture, which is not what was written
    const kind = scene.ingredientKinds.find((k) => k.label.toLowerCase() === move.unknown);
    missing.value = { ...move, make: kind ?? null };
    said.value = `There is no latch called “${move.unknown}”.`;
    return;
  }
  done();
  scene.openLatch = null;
  used.use(move.kind.kind);
  scene.addMove(move.kind, move.values, move.latch);
}
</script>

<template>
  <div class="verbs-row" role="group" aria-label="What can be done">
    <form @submit.prevent="add">
      <label class="hidden-label" for="add-move">Type an edit</label>
      <input
        id="add-move"
        v-model="text"
        class="boxed"
        placeholder="“burn sky 0.9”"
        data-help="Type an edit: a verb, a latch, a number. For example: burn sky 0.9"
        autocomplete="off"
        @keydown.esc="done"
      />
    </form>
    <MenuBox v-for="a in asked" :key="a.question" @command="choose">
      <ElButton size="small" :aria-label="a.question"
        >{{ SHORT[a.question] ?? a.question }}&ensp;<GlyphMark name="down"
      /></ElButton>
      <template #dropdown><KindItems :kinds="a.kinds" /></template>
    </MenuBox>
    <span class="rule" aria-hidden="true" />
    <ElButton
      size="small"
      data-help="Paint light: lighter where the brush goes"
      @click="dodging.paint('Dodge', 0.5)"
      ><GlyphMark name="dodge" /><span class="word">&ensp;Dodge</span></ElButton
    >
    <ElButton
      size="small"
      data-help="Paint shade: darker where the brush goes"
      @click="dodging.paint('Burn', -0.5)"
      ><GlyphMark class="solid" name="dodge" /><span class="word">&ensp;Burn</span></ElButton
    >
    <ElButton
      size="small"
      aria-label="Point at a problem"
      data-help="Point at a problem: click a place and say what is wrong there"
      :aria-pressed="view.tool === 'wrong'"
      @click="
        scene.openLatch = null;
        view.tool = view.tool === 'wrong' ? '' : 'wrong';
      "
      ><GlyphMark name="point"
    /></ElButton>
    <HabitMenu :habits="habits.ofMoves" @use="habits.useMoves">
      <template v-if="scene.moves.length > 1" #more>
        <button class="bare" type="button" @click="keepAll">Save all of Light as a habit</button>
      </template>
    </HabitMenu>
  </div>
  <p v-if="said" class="problem said" role="status">
    {{ said }}
    <template v-if="missing">
      <button v-if="missing.make" class="plain" type="button" @click="makeLatch">
        Create latch “{{ missing.make.label }}”
      </button>
      <button class="plain" type="button" @click="everywhere">
        {{ missing.kind.label }} on the whole picture
      </button>
    </template>
    <button class="bare" type="button" aria-label="Dismiss" @click="done"><GlyphMark name="remove" /></button>
  </p>
</template>

<style scoped>
form {
  flex: 1 1 110px;
  min-width: 96px;
  max-width: 420px;
}
form .boxed {
  width: 100%;
}
.solid {
  fill: currentColor;
}
/* said over the picture, so that nothing moves */
.said {
  position: absolute;
  z-index: 6;
  top: 48px;
  left: 12px;
  right: 12px;
  display: flex;
  align-items: center;
  gap: 8px;
}
@media (max-width: 1239px) {
  form {
    min-width: 76px;
  }
  .word {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
}
</style>
