/** What is in hand on the picture. A tool is one object of one shape; a file of kinds/ makes some, and is all that has to
 * be written for them. */
import type { Component, Ref } from "vue";

import type { Frame, Spot } from "../model/plane";
import type { Place } from "../picture/pointer";

export interface Tool {
  /** What one does with it, in a sentence. */
  says?: string;
  cursor?: string;
  /** Whether it is what the pointer does now, though nothing was taken in hand; asked of those in no hand. */
  ready?(): boolean;
  /** The pointer is pressed. False where it has nothing to do there, so that the picture is carried. */
  down?(at: Place): boolean | void;
  /** It moves while pressed. */
  move?(at: Place): void;
  /** It passes over; null: it has left. */
  hover?(at: Place | null): void;
  up?(at: Place): void | Promise<void>;
  /** Nothing was drawn. True where something was under way. */
  cancel?(): boolean;
  /** Without a pointer: Enter, where the arrow keys have aimed (fractions of the picture). */
  key?(at: Spot, shift: boolean): void;
  /** Something is being drawn: pictures may wait. */
  busy?(): boolean;
  /** What it draws over the picture, given `tool`. */
  draws?: Component;
}
/** What tools work with: where the picture lies on the stage. */
export interface Hand {
  frame: Readonly<Ref<Frame>>;
}
export type Maker = (hand: Hand) => Record<string, Tool>;
