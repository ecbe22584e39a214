/** Latches and moves kept as habits, and used on another frame. */
import { defineStore } from "pinia";
import { computed, ref } from "vue";

import { client, need, type Latch, type MoveLine, type Schemas } from "../api/client";
import { useRemoval } from "../composables/removal";
import { useScene } from "./scene";
import type { Errand } from "./scene/errands";

export const useHabits = defineStore("habits", () => {
  const scene = useScene();
  const habits = ref<Schemas["HabitOut"][]>([]);

  async function load(): Promise<void> {
    try {
      habits.value = await need(client.GET("/api/habits"));
    } catch (error) {
      scene.notices.tell("habits", error);
    }
  }
  async function said(work: () => Promise<void>): Promise<void> {
    await work().then(
      () => scene.notices.settle("habits"),
      (error: Error) => scene.notices.tell("habits", error),
    );
  }
  const forHere = (work: (at: Errand) => Promise<void>) => said(() => scene.errand("habit", work));
  const keep = (latch: string) =>
    said(async () => {
      await need(
        client.POST("/api/scenes/{scene_id}/habits", {
          params: { path: { scene_id: scene.opened!.id } },
          body: { document: scene.current(), latch },
        }),
      );
      await load();
    });
  const use = (habit: Schemas["HabitOut"]) =>
    forHere(async (at) => {
      const made = await need(
        client.POST("/api/habits/{habit_id}/latch", {
          params: { path: { habit_id: habit.id } },
          body: { read_at: scene.readAt(), taken: scene.latches.map((l) => l.name) },
        }),
      );
      if (at.here()) scene.takeLatch(made as Latch, `Use habit ${habit.name}`);
    });
  const keepMoves = (moves: string[], name: string) =>
    said(async () => {
      await need(
        client.POST("/api/scenes/{scene_id}/habits/moves", {
          params: { path: { scene_id: scene.opened!.id } },
          body: { document: scene.current(), moves, name },
        }),
      );
      await load();
    });
  const useMoves = (habit: Schemas["HabitOut"]) =>
    forHere(async (at) => {
      const made = await need(
        client.POST("/api/scenes/{scene_id}/habits/{habit_id}/moves", {
          params: { path: { scene_id: scene.opened!.id, habit_id: habit.id } },
          body: { document: scene.current() },
        }),
      );
      if (!at.here()) return;
      scene.document!.latches.push(...(made.latches as Latch[]));
      scene.document!.moves.push(...(made.moves as MoveLine[]));
      await scene.commit(`Use habit ${habit.name}`);
    });
  /** Forgetting can be taken back. */
  const removal = useRemoval(load);
  const forget = (habit: Schemas["HabitOut"]) => said(() => removal.remove("habit", [habit.id]));
  const remember = () => said(() => removal.takeBack(removal.last.value));
  const ofLatches = computed(() => habits.value.filter((h) => h.of === "latch"));
  const ofMoves = computed(() => habits.value.filter((h) => h.of === "moves"));
  return {
    ofLatches,
    ofMoves,
    load,
    keep,
    use,
    keepMoves,
    useMoves,
    forget,
    remember,
    forgotten: removal.last,
  };
});
