/** What the parts of the scene store share. */
import type { ComputedRef, Ref, ShallowRef } from "vue";

import type { Kind, Latch, MoveLine, SceneDocument, Schemas } from "../../api/client";
import type { Plane } from "../../model/plane";

export interface Core {
  opened: ShallowRef<Schemas["SceneOut"] | null>;
  vocabulary: ShallowRef<Schemas["Vocabulary"] | null>;
  document: Ref<SceneDocument | null>;
  openMove: Ref<string | null>;
  openLatch: Ref<string | null>;
  openIngredient: Ref<string | null>;
  moves: ComputedRef<MoveLine[]>;
  latches: ComputedRef<Latch[]>;
  latch: ComputedRef<Latch | null>;
  lightKinds: ComputedRef<Kind[]>;
  ingredientKinds: ComputedRef<Kind[]>;
  plane: ComputedRef<Plane | null>;
  nameOf: (latch: string | null | undefined) => string;
  /** A change that is done: one revision, with words for undo. */
  commit: (words: string) => Promise<void>;
}
