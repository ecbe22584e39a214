/** What is committed is kept: snapshot and words at that instant, a queue that survives, retries with growing pauses.
 *
 * Each edit is the whole document as it stood when it was committed. Edits go to the server one by one, in order; a copy
 * of the queue lies in the browser until the server has acknowledged them. Nothing is called saved before.
 */
import { Refusal, type SceneDocument } from "../api/client";
import type { Shelf } from "./shelf";

/** A document as plain data; nothing else holds on to it. */
export type Snapshot = SceneDocument;
export interface Revision {
  number: number;
  document: unknown;
  key?: string;
}
export interface Edit {
  key: string;
  document: Snapshot;
  words: string;
  made: number;
}
/** What lies in the browser of a scene until it is saved: `base` is the revision the first edit was made from. */
export interface Kept {
  base: number;
  edits: Edit[];
}
/** waiting: the server does not answer, it is tried again. ended: the session did. conflict: somebody saved in between.
 * stopped: the server will not take it, whatever is tried. */
export type SavingState = "saved" | "saving" | "waiting" | "ended" | "conflict" | "stopped";

export interface Told {
  /** The state has changed. */
  state(state: SavingState): void;
  /** An edit was acknowledged; `sent` is what was sent, `last` whether nothing newer waits. */
  saved(revision: Revision, sent: Edit, last: boolean): void;
  /** An edit was refused with a sentence, and left out; `last` as above. */
  refused(sentence: string, edit: Edit, last: boolean): void;
}
export type Send = (scene: string, base: number, edit: Edit) => Promise<Revision>;

const FIRST_PAUSE = 1000;
const LONGEST_PAUSE = 30_000;
/** Answers after which the same is tried again. */
const PASSING = new Set([0, 408, 425, 429, 500, 502, 503, 504]);
const TOO_OLD = 403;
/** States in which nothing goes on by itself. */
const STANDS = new Set<SavingState>(["ended", "conflict", "stopped"]);

export class Saver {
  state: SavingState = "saved";
  /** Edits that are not acknowledged, the oldest first. */
  queue: Edit[] = [];
  /** The revision in force elsewhere, where there is a conflict. */
  theirs: Revision | null = null;
  /** Why it stopped. */
  sentence = "";
  private scene = "";
  private acknowledged: Revision | null = null;
  private pause = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private sending: Promise<void> | null = null;
  private held = 0;
  private settlers: (() => void)[] = [];
  /** Rises when another scene is opened: what was sent for the last one is no news any more. */
  private turn = 0;

  constructor(
    private readonly send: Send,
    private readonly shelf: Shelf,
    private readonly told: Told,
    /** Called before an edit is sent again after the page was found too old. */
    private readonly refresh: () => Promise<unknown> = () => Promise.resolve(),
  ) {}

  /** A scene is opened at a revision. What was left of it in the browser is not taken up by this: see `takeUp`. */
  open(scene: string, revision: Revision): void {
    this.turn++;
    clearTimeout(this.timer);
    this.scene = scene;
    this.acknowledged = revision;
    this.queue = [];
    this.theirs = null;
    this.pause = 0;
    this.sending = null;
    this.say("saved");
  }

  /** Inside, a revision comes another way: an undo, a redo. What is committed meanwhile is sent after it. */
  async during(work: () => Promise<void>): Promise<void> {
    this.held++;
    try {
      await work();
    } finally {
      this.held--;
      this.go();
    }
  }

  /** It has come; what has been committed meanwhile goes on top of it. */
  moved(revision: Revision): void {
    this.acknowledged = revision;
    if (this.queue.length) this.keep();
  }

  /** The number of the revision that is in force as far as is known. */
  get base(): number {
    return this.acknowledged!.number;
  }

  /** What was committed last, saved or not. */
  get latest(): Snapshot {
    return this.queue.at(-1)?.document ?? (this.acknowledged!.document as Snapshot);
  }

  get unsaved(): boolean {
    return this.queue.length > 0;
  }

  /** A change that is done. The document is the caller's own copy: it is not looked at again. */
  commit(document: Snapshot, words: string): void {
    this.queue.push({ key: crypto.randomUUID(), document, words, made: Date.now() });
    this.keep();
    if (this.state === "saved") this.say("saving");
    this.go();
  }

  /** Edits left by a window that is gone, made from the revision that is in force. */
  takeUp(edits: Edit[]): void {
    this.queue.push(...edits);
    this.keep();
    if (this.queue.length) this.say("saving");
    this.go();
  }

  /** Try again now: the network is back, or somebody signed in. */
  resume(): void {
    if (!this.queue.length || this.state === "conflict" || this.state === "stopped") return;
    clearTimeout(this.timer);
    this.timer = undefined;
    this.pause = 0;
    this.say("saving");
    this.go();
  }

  /** Of two, ours: what was made here is saved on top of what was saved elsewhere, which stays in the history. */
  keepOurs(): void {
    if (this.state !== "conflict") return;
    this.acknowledged = this.theirs;
    this.theirs = null;
    this.queue = this.queue.slice(-1);
    this.keep();
    this.say("saving");
    this.go();
  }

  /** Of two, theirs: what was made here is let go. */
  takeTheirs(): Revision {
    const theirs = this.theirs!;
    this.acknowledged = theirs;
    this.theirs = null;
    this.queue = [];
    this.keep();
    this.say("saved");
    this.settle();
    return theirs;
  }

  /** Done when everything committed so far is saved or refused, or somebody has to decide first. Where the server is away,
   * when it is back. */
  settled(): Promise<void> {
    if (!this.queue.length || STANDS.has(this.state)) return Promise.resolve();
    return new Promise((done) => this.settlers.push(done));
  }

  private go(): void {
    if (this.held || this.sending || this.timer !== undefined || !this.queue.length) return;
    if (this.state !== "saving") return;
    const turn = this.turn;
    this.sending = this.first(turn).finally(() => {
      if (turn !== this.turn) return;
      this.sending = null;
      this.go();
    });
  }

  private async first(turn: number): Promise<void> {
    const edit = this.queue[0]!;
    let revision: Revision;
    try {
      revision = await this.send(this.scene, this.base, edit);
    } catch (error) {
      if (turn === this.turn) await this.failed(edit, error);
      return;
    }
    if (turn !== this.turn) return;
    this.acknowledged = revision;
    this.pause = 0;
    this.drop(edit);
    this.told.saved(revision, edit, !this.queue.length);
    if (!this.queue.length) this.say("saved");
    this.settle();
  }

  private async failed(edit: Edit, error: unknown): Promise<void> {
    // whatever it was, the queue goes on: an answer nobody expected is tried again like none at all
    const status = error instanceof Refusal ? error.status : 0;
    if (status === 401) this.say("ended");
    else if (status === 409) {
      this.theirs = (error as Refusal).body as Revision;
      this.say("conflict");
    } else if (status === 404 || status === 410) {
      this.sentence = "This scene is not there any more. What you did is kept in this browser.";
      this.say("stopped");
    } else if (PASSING.has(status) || status === TOO_OLD) {
      if (status === TOO_OLD) await this.refresh().catch(() => undefined);
      this.again();
    } else {
      this.drop(edit);
      const last = !this.queue.length;
      this.told.refused((error as Error).message, edit, last);
      if (last) this.say("saved");
      this.settle();
    }
  }

  private again(): void {
    this.pause = Math.min(this.pause ? this.pause * 2 : FIRST_PAUSE, LONGEST_PAUSE);
    this.say("waiting");
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      this.timer = undefined;
      this.say("saving");
      this.go();
    }, this.pause);
  }

  private drop(edit: Edit): void {
    this.queue = this.queue.filter((e) => e !== edit);
    this.keep();
  }

  private keep(): void {
    if (this.queue.length) void this.shelf.put(this.scene, { base: this.base, edits: [...this.queue] });
    else void this.shelf.drop(this.scene);
  }

  private settle(anyway = false): void {
    if (this.queue.length && !anyway) return;
    for (const done of this.settlers.splice(0)) done();
  }

  private say(state: SavingState): void {
    this.state = state;
    this.told.state(state);
    if (STANDS.has(state)) this.settle(true);
  }
}
