/** Lines of the ledger that are switched together. */
import { defineStore } from "pinia";
import { computed, ref } from "vue";

import type { MoveLine, Schemas } from "../api/client";
import { useScene } from "./scene";

export type Group = Schemas["Group"] & { id: string };

export const useGroups = defineStore("groups", () => {
  const scene = useScene();
  const groups = computed(() => (scene.document?.groups ?? []) as Group[]);
  /** Groups whose lines are folded away. */
  const folded = ref<Set<string>>(new Set());
  const of = (move: MoveLine | undefined) => groups.value.find((g) => g.id === move?.group);

  /** The group that begins at a line: where the line before is of another, or of none. */
  function beginning(n: number): Group | undefined {
    const group = of(scene.moves[n]);
    return group && group.id !== scene.moves[n - 1]?.group ? group : undefined;
  }
  /** A line goes with the one above it; where that is in no group yet, both make one. */
  function withAbove(n: number): void {
    const [above, line] = [scene.moves[n - 1]!, scene.moves[n]!];
    let group = of(above);
    if (!group) {
      group = { id: crypto.randomUUID(), name: freeName(), on: true };
      scene.document!.groups.push(group);
      above.group = group.id;
    }
    line.group = group.id;
    void commit(`Group into ${group.name}`);
  }
  function out(line: MoveLine): void {
    const name = of(line)?.name;
    line.group = null;
    void commit(`Take out of ${name}`);
  }
  function rename(group: Group, name: string): void {
    if (!name.trim()) return;
    group.name = name.trim();
    void commit(`Rename ${group.name}`);
  }
  function turn(group: Group): void {
    group.on = !group.on;
    void commit(`Switch ${group.name} ${group.on ? "on" : "off"}`);
  }
  function fold(group: Group): void {
    if (!folded.value.delete(group.id)) folded.value.add(group.id);
  }
  function freeName(): string {
    const names = new Set(groups.value.map((g) => g.name));
    let n = 1;
    while (names.has(`Group ${n}`)) n++;
    return `Group ${n}`;
  }
  /** A group nobody is in any more goes. */
  function commit(words: string): Promise<void> {
    const used = new Set(scene.moves.map((m) => m.group));
    scene.document!.groups = groups.value.filter((g) => used.has(g.id));
    return scene.commit(words);
  }
  return { groups, folded, of, beginning, withAbove, out, rename, turn, fold, commit };
});
