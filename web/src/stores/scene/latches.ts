/** Latches and their ingredients: new ones, ones once more, two in one. */
import type {
  IngredientLine,
  Kind,
  Latch,
  ParamField,
  SceneDocument,
  Schemas,
  Values,
} from "../../api/client";
import type { Core } from "./core";
import { defaults, freshId } from "./lines";

/** All that holds on to a latch: lines of every band, and latches made of it. None of them would hold without. */
export function holders(document: SceneDocument, latch: string): unknown[] {
  const lines = [
    ...document.moves,
    ...(document.loans ?? []),
    ...(document.sky ? [document.sky] : []),
    ...Object.values(document.ground ?? {}),
  ];
  const made = document.latches.filter((l) =>
    l.ingredients.some((i) => (i.params as { latch?: unknown }).latch === latch),
  );
  return [...lines.filter((line) => (line as { latch?: string | null }).latch === latch), ...made];
}

export function latchWork(scene: Core) {
  function addLatch(kind: Kind): void {
    if (!scene.opened.value) return;
    const name = freeName(kind.label);
    const made = freshLatch(name, !kind.found);
    scene.document.value?.latches.push(made);
    scene.openLatch.value = made.id;
    // made while a move is open that is latched nowhere yet, it is what the move is latched to
    const move = scene.moves.value.find((m) => m.id === scene.openMove.value);
    if (move && !move.latch) move.latch = made.id;
    addIngredient(kind, "add", `New latch ${name}`);
  }

  function freshLatch(name: string, edgeTrue: boolean): Latch {
    const declared = (fields: ParamField[] = []) =>
      Object.fromEntries(fields.map((f) => [f.name, f.default]));
    const made: Values = {
      id: freshId(),
      name,
      ingredients: [],
      invert: false,
      fine_edges: false,
      ...declared(scene.vocabulary.value?.latch_finish),
      edge_true: { on: edgeTrue, ...declared(scene.vocabulary.value?.edge_true) },
      read_at: readAt(),
    };
    return made as Latch;
  }

  function freeName(base: string): string {
    const names = new Set(scene.latches.value.map((l) => l.name));
    let name = base;
    for (let n = 2; names.has(name); n++) name = `${base} ${n}`;
    return name;
  }

  /** A latch once more, its ingredients its own. */
  function copyLatch(key: string): void {
    const from = scene.latches.value.find((l) => l.id === key);
    if (!from) return;
    const copy = JSON.parse(JSON.stringify(from)) as Latch;
    copy.id = freshId();
    copy.name = freeName(from.name);
    for (const i of copy.ingredients) i.id = freshId();
    takeLatch(copy, `Duplicate ${from.name}`);
  }

  /** An ingredient of the opened latch once more, below the first. */
  function copyIngredient(key: string): void {
    const all = scene.latch.value?.ingredients ?? [];
    const n = all.findIndex((i) => i.id === key);
    if (n < 0) return;
    const copy = { ...(JSON.parse(JSON.stringify(all[n])) as IngredientLine), id: freshId() };
    all.splice(n + 1, 0, copy);
    scene.openIngredient.value = copy.id;
    void scene.commit(`Duplicate ${scene.ingredientKinds.value.find((k) => k.kind === copy.kind)?.label}`);
  }

  /** A latch that is ready, put on the shelf and opened. */
  function takeLatch(made: Latch, words: string): void {
    scene.document.value?.latches.push(made);
    scene.openLatch.value = made.id!;
    scene.openIngredient.value = made.ingredients[0]?.id ?? null;
    void scene.commit(words);
  }

  /** Two latches in one: a latch made of both, whose join is then chosen in it. */
  function joinLatches(one: string, other: string): void {
    const another = scene.ingredientKinds.value.find((k) => k.kind === "another");
    const first = scene.latches.value.find((l) => l.id === other);
    if (!another || !first || one === other) return;
    const made = freshLatch(freeName(`${first.name} and ${scene.nameOf(one)}`), false);
    made.ingredients = [other, one].map((latch) => ({
      id: freshId(), kind: "another", revision: another.revision, join: "add", invert: false, on: true, params: { latch },
    })) as IngredientLine[]; // prettier-ignore
    takeLatch(made, `Combine ${made.name}`);
    scene.openIngredient.value = made.ingredients[1]!.id!;
  }

  /** Ground as it is now, for latches to remember. */
  function readAt(): Schemas["ReadAt"] {
    const light = scene.document.value?.ground?.colour_of_light?.params;
    const shot = scene.opened.value!.as_shot;
    return {
      kelvin: light?.kelvin ?? shot.kelvin!,
      duv: (light?.tint ?? shot.tint!) / 1000,
      base_exposure: scene.document.value?.ground?.base_exposure?.params?.ev ?? 0,
    };
  }

  function addIngredient(kind: Kind, join: IngredientLine["join"], words?: string): void {
    const held = scene.latches.value.find((l) => l.id === scene.openLatch.value);
    if (!held || !scene.plane.value) return;
    const params = defaults(kind);
    if (kind.kind === "ramp") {
      params.full = scene.plane.value.toSource({ x: 0.5, y: 0.18 });
      params.none = scene.plane.value.toSource({ x: 0.5, y: 0.62 });
    }
    if (kind.kind === "pool") {
      params.centre = scene.plane.value.toSource({ x: 0.5, y: 0.5 });
      params.edge = scene.plane.value.toSource({ x: 0.68, y: 0.5 });
    }
    if (kind.kind === "another") params.latch = scene.latches.value.find((l) => l.id !== held.id)?.id ?? "";
    const line = {
      id: freshId(),
      kind: kind.kind,
      revision: kind.revision,
      join,
      invert: false,
      on: true,
      params,
    };
    held.ingredients.push(line as IngredientLine);
    scene.openIngredient.value = line.id;
    void scene.commit(words ?? `Add ${kind.label} to ${held.name}`);
  }

  return {
    addLatch, freshLatch, freeName, copyLatch, copyIngredient, takeLatch, joinLatches, addIngredient, readAt,
  }; // prettier-ignore
}
