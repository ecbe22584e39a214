/** Latches kept as habits, and found anew on another frame. */
import { defineStore } from "pinia";
import { ref } from "vue";

import { client, need, type Latch, type Schemas } from "../api/client";
import { useScene } from "./scene";

export const useHabits = defineStore("habits", () => {
  const scene = useScene();
  const habits = ref<Schemas["HabitOut"][]>([]);

  async function load(): Promise<void> {
    habits.value = await need(client.GET("/api/habits"));
  }
  async function said(work: () => Promise<void>): Promise<void> {
    await work().catch((error: Error) => (scene.problem = error.message));
  }
  const keep = (latch: string) =>
    said(async () => {
      await need(
        client.POST("/api/scenes/{scene_id}/habits", {
          params: { path: { scene_id: scene.opened!.id } },
          body: { document: scene.current() as never, latch },
        }),
      );
      await load();
    });
  const use = (habit: Schemas["HabitOut"]) =>
    said(async () => {
      const made = await need(
        client.POST("/api/habits/{habit_id}/latch", {
          params: { path: { habit_id: habit.id } },
          body: { read_at: scene.readAt(), taken: scene.latches.map((l) => l.name) },
        }),
      );
      scene.takeLatch(made as unknown as Latch, `${habit.name}, by habit`);
    });
  const forget = (habit: Schemas["HabitOut"]) =>
    said(async () => {
      await client.DELETE("/api/habits/{habit_id}", { params: { path: { habit_id: habit.id } } });
      await load();
    });
  return { habits, load, keep, use, forget };
});
