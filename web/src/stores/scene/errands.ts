/** What is asked of the server for a scene, and takes its time: the answer belongs to that scene, wherever one has gone
 * meanwhile. One helper for all of it. */
import type { Ref, ShallowRef } from "vue";

import type { SceneDocument, Schemas } from "../../api/client";

export interface Errand {
  /** The scene it is for, by its id and its name. */
  readonly scene: string;
  readonly name: string;
  /** That scene's document as it stands, as a copy: on screen, or as it was committed last. */
  now(): SceneDocument;
  /** The scene is on screen. */
  open(): boolean;
  /** Nothing newer of its kind was begun since, nor was it ended. */
  wanted(): boolean;
  /** Both, and the scene was not left in between: for what is only looked at. */
  here(): boolean;
  /** Take the answer into its scene, with words for undo. */
  done(change: (document: SceneDocument) => void, words: string): void;
}

interface Work {
  opened: ShallowRef<Schemas["SceneOut"] | null>;
  document: Ref<SceneDocument | null>;
  current: () => SceneDocument;
  commit: (words: string) => Promise<void>;
  /** A scene that is not on screen: its document as it was committed last, and a new one for it. */
  latestOf: (scene: string) => SceneDocument;
  commitTo: (scene: string, document: SceneDocument, words: string) => void;
}

export function errandWork(scene: Work) {
  const newest = new Map<string, number>();
  /** How many are under way for each scene. */
  const pending = new Map<string, number>();
  let visit = 0;
  let counter = 0;

  function begin(about: string): Errand {
    const { id, name } = scene.opened.value!;
    const [mine, at] = [++counter, visit];
    newest.set(about, mine);
    const errand: Errand = {
      scene: id,
      name,
      open: () => scene.opened.value?.id === id,
      wanted: () => newest.get(about) === mine,
      here: () => errand.open() && errand.wanted() && at === visit,
      now: () => structuredClone(errand.open() ? scene.current() : scene.latestOf(id)),
      done(change, words) {
        if (errand.open()) {
          change(scene.document.value!);
          void scene.commit(words);
        } else {
          const document = errand.now();
          change(document);
          scene.commitTo(id, document, words);
        }
      },
    };
    return errand;
  }
  /** Run an errand for the scene that is open. `about`: what kind it is; a newer one of a kind makes older ones unwanted. */
  async function errand<T>(about: string, work: (errand: Errand) => Promise<T>): Promise<T> {
    const made = begin(about);
    pending.set(made.scene, (pending.get(made.scene) ?? 0) + 1);
    try {
      return await work(made);
    } finally {
      pending.set(made.scene, pending.get(made.scene)! - 1);
    }
  }
  /** Whatever of a kind is under way is not wanted any more. */
  const endErrands = (about: string) => void newest.set(about, ++counter);
  /** Another scene is opened, or the same anew. */
  const arrive = () => void visit++;
  const awaited = (id: string) => (pending.get(id) ?? 0) > 0;
  return { errand, endErrands, arrive, awaited };
}
