/** How what is committed is saved: one saver to a scene, undo and redo, and what two windows saved of one state. */
import { ref, shallowRef, type Ref, type ShallowRef } from "vue";

import { client, me, need, Refusal, type SceneDocument, type Schemas } from "../../api/client";
import { Saver, type Edit, type SavingState } from "../../saving/saver";
import { browserShelf } from "../../saving/shelf";
import { useNotices } from "../notices";
import { windowId } from "../pictures";
import { useSession } from "../session";
import { takeKept } from "./kept";

export type Revision = Schemas["RevisionOut"];
/** What of the scene saving has to do with. */
interface Saved {
  opened: ShallowRef<Schemas["SceneOut"] | null>;
  /** Another that is being opened. */
  coming: Ref<string>;
  document: Ref<SceneDocument | null>;
  /** Rises with every change that the picture must follow. */
  tick: Ref<number>;
  dragging: Ref<boolean>;
  /** Something on screen is not committed yet. */
  dirty: Ref<boolean>;
  /** The document as it stands. */
  current: () => SceneDocument;
  /** A document on screen. */
  show: (document: SceneDocument) => void;
  /** Whether an answer is on its way for a scene. */
  awaited: (scene: string) => boolean;
}

const documentOf = (revision: Revision) => revision.document as SceneDocument;

export function savingWork(scene: Saved) {
  const notices = useNotices();
  const revision = shallowRef<Revision | null>(null);
  /** How what was committed stands with the server. */
  const saving = ref<SavingState>("saved");
  /** What was saved elsewhere in the meantime, while it is to be decided which counts. */
  const theirs = shallowRef<Revision | null>(null);
  /** Theirs is looked at. */
  const peeking = ref(false);
  /** What a window that is gone had not saved of this scene. */
  const left = shallowRef<Edit[]>([]);

  const shelf = browserShelf(windowId);
  /** One to a scene; one that still has something to save goes on when its scene is left. */
  const savers = new Map<string, Saver>();
  let saver = saverOf("");
  const latest = () => saver.latest;

  function saverOf(id: string): Saver {
    const made: Saver = new Saver(
      (scene, base, edit) => {
        const params = { path: { scene_id: scene } };
        const body = { base, document: edit.document, words: edit.words, key: edit.key };
        return need(client.POST("/api/scenes/{scene_id}/revisions", { params, body }));
      },
      shelf,
      {
        state: (state) => {
          if (made !== saver) return;
          saving.value = state;
          theirs.value = made.theirs as Revision | null;
          if (state === "saved") notices.settle("saving");
          else if (state === "stopped") notices.tell("saving", made.sentence);
        },
        saved: (next, sent) => {
          if (made !== saver) return;
          revision.value = next as Revision;
          if (scene.document.value)
            takeKept(scene.document.value, sent.document, documentOf(next as Revision));
        },
        refused: (sentence, edit, last) => {
          notices.tell("refused", `${sentence} “${edit.words}” could not be saved and was undone.`);
          if (made === saver && last && !scene.dragging.value) restore();
        },
      },
      me,
    );
    savers.set(id, made);
    return made;
  }
  const everySaver = (work: (one: Saver) => void) => savers.forEach(work);
  useSession().onceSignedIn(() => {
    everySaver((one) => one.resume());
    scene.tick.value++;
  });
  window.addEventListener("online", () => everySaver((one) => one.resume()));
  window.addEventListener("beforeunload", (e) => {
    if (scene.dragging.value || [...savers.values()].some((one) => one.unsaved)) e.preventDefault();
  });

  function take(next: Revision): void {
    revision.value = next;
    scene.show(documentOf(next));
  }

  /** A scene is opened at a revision. Left before it was saved, and come back to, it goes on from there. */
  function begin(id: string, now: Revision): void {
    peeking.value = false;
    left.value = [];
    const before = savers.get(id);
    for (const [key, one] of savers) if (!one.unsaved && !scene.awaited(key)) savers.delete(key);
    if (before?.unsaved) {
      saver = before;
      revision.value = now;
      saving.value = saver.state;
      theirs.value = saver.theirs as Revision | null;
      scene.show(latest());
    } else {
      saver = saverOf(id);
      saver.open(id, now);
      take(now);
    }
    void lookForLeft(id, now);
  }

  /** What windows that are gone had not saved of the scene: offered, unless the last of it was saved after all. */
  async function lookForLeft(id: string, now: Revision): Promise<void> {
    const found = await shelf.left(id);
    const edits = found.flatMap((kept) => {
      const known = kept.edits.findIndex((e) => e.key === now.key);
      const rest = kept.edits.slice(known + 1);
      return kept.base === now.number || known >= 0 ? rest : rest.slice(-1);
    });
    if (scene.opened.value?.id !== id) return;
    if (edits.length) left.value = edits.sort((a, b) => a.made - b.made);
    else if (found.length) void shelf.clear(id);
  }

  /** A change that is done: one revision, with words for undo. Done when it is saved or refused. */
  function commit(words: string): Promise<void> {
    scene.dragging.value = scene.dirty.value = false;
    saver.commit(scene.current(), words);
    // what is saved is sent before what is looked at: a browser keeps few requests going at a time, and a
    // picture may wait for something to be found
    setTimeout(() => scene.tick.value++);
    return saver.settled();
  }

  /** The lines of Light and the repairs as they were committed last, saved or on their way. */
  function committed(): { id?: string }[] {
    const latest = saver.latest as { moves?: { id?: string }[]; repairs?: { id?: string }[] };
    return [...(latest.moves ?? []), ...(latest.repairs ?? [])];
  }

  /** Steps that were asked for and have not come. */
  const stepping = ref(0);
  let steps: Promise<void> = Promise.resolve();
  /** One after the other: each goes from where the one before has come to. */
  function step(path: "undo" | "redo"): Promise<void> {
    const id = scene.opened.value?.id;
    stepping.value++;
    steps = steps
      .then(() => stepOnce(path, id))
      .catch((error: unknown) => notices.tell("step", error))
      .finally(() => stepping.value--);
    return steps;
  }
  /** In the scene in which it was asked for, or not at all: waiting for what is being saved, one may have left it. */
  async function stepOnce(path: "undo" | "redo", id: string | undefined): Promise<void> {
    const here = () => scene.opened.value?.id === id && !scene.coming.value;
    if (!here()) return;
    if (scene.dragging.value) restore();
    const mine = saver;
    await mine.settled();
    if (!here() || mine !== saver || !revision.value || mine.unsaved) return;
    await mine.during(() => stepFrom(mine, path));
  }
  async function stepFrom(mine: Saver, path: "undo" | "redo"): Promise<void> {
    if (!scene.opened.value) return;
    const options = {
      params: { path: { scene_id: scene.opened.value.id } },
      body: { base: mine.base },
    };
    try {
      const next = await need(
        path === "undo"
          ? client.POST("/api/scenes/{scene_id}/undo", options)
          : client.POST("/api/scenes/{scene_id}/redo", options),
      );
      notices.settle("step");
      if (mine === saver) stepped(next);
    } catch (error) {
      if (mine !== saver) return;
      if (error instanceof Refusal && error.status === 409) {
        notices.tell("step", "This scene was changed in another window; what was saved there is shown.");
        stepped(error.body as Revision);
      } else notices.tell("step", error);
    }
  }
  /** Another revision is in force; what has been committed meanwhile stays on top. */
  function stepped(next: Revision): void {
    saver.moved(next);
    if (!saver.unsaved) take(next);
  }

  /** Back to a kept state, which is one more revision. */
  async function goBackTo(keep: string, name: string): Promise<void> {
    const id = scene.opened.value?.id;
    const mine = saver;
    await mine.settled();
    if (!id || scene.opened.value?.id !== id || mine !== saver || mine.unsaved) return;
    const params = { path: { scene_id: id, keep_id: keep } };
    await mine.during(async () => {
      try {
        const body = { base: mine.base };
        const next = await need(client.POST("/api/scenes/{scene_id}/keeps/{keep_id}/back", { params, body }));
        notices.settle("step");
        if (mine === saver) stepped(next);
      } catch (error) {
        if (mine !== saver) return;
        if (error instanceof Refusal && error.status === 409) stepped(error.body as Revision);
        notices.tell("step", new Error(`${name} was not gone back to: ${(error as Error).message}`));
      }
    });
  }
  /** Done when what was committed is saved, or refused. */
  const settled = () => saver.settled();

  /** Of a scene that is not on screen: what was committed last, and what comes now. */
  const latestOf = (id: string) => savers.get(id)!.latest;
  const commitTo = (id: string, document: SceneDocument, words: string) =>
    savers.get(id)!.commit(document, words);

  /** Put back what was committed last, saved or on its way (Escape in mid-drag). */
  function restore(): void {
    if (!revision.value) return;
    scene.dragging.value = scene.dirty.value = false;
    scene.show(latest());
  }

  /** Which of two that were saved from one state counts. */
  function decide(whose: "ours" | "theirs"): void {
    peeking.value = false;
    if (whose === "ours") saver.keepOurs();
    else take(saver.takeTheirs() as Revision);
    scene.tick.value++;
  }

  /** Look at theirs, or at ours again. */
  function peek(): void {
    peeking.value = !peeking.value;
    scene.tick.value++;
  }

  /** Take up what a window that is gone had not saved, or let it go. */
  function takeUp(takes: boolean): void {
    const edits = left.value;
    left.value = [];
    if (scene.opened.value) void shelf.clear(scene.opened.value.id);
    if (!takes || !edits.length) return;
    saver.takeUp(edits);
    scene.show(latest());
  }

  return {
    revision, saving, theirs, peeking, left, begin, commit, committed, step, restore, decide, peek, takeUp, latestOf, commitTo,
    stepping, goBackTo, settled,
  }; // prettier-ignore
}
