/** A stone of the path. A folder with an index.ts that says this is a station, and all that has to be written for it. */
import type { Component } from "vue";

import type { Check } from "../checks/check";
import type { Frame } from "../model/plane";
import type { Sheet, Size } from "../picture/viewport";

/** What lies over the picture is given: where that lies on the stage, the stage's size, the check that is looked through, and
 * whether the picture in sight is the plain one. */
export interface Over {
  frame: Frame;
  size: Size;
  check: Check | null;
  plain: boolean;
}
export interface Station {
  /** Its name on the path; in the address it is written small. */
  name: string;
  /** The column beside the picture. */
  side: Component;
  /** What lies above the picture, if anything: its verbs in one row. */
  above?: Component;
  /** What lies below the picture, if anything. */
  below?: Component;
  /** What lies over the picture there, as `Over` says. */
  over?: Component;
  /** What is asked of the picture there beside the document, given the check that is looked through. */
  asks?: (check: Check | null) => Record<string, unknown>;
  /** The sheet the picture lies on, if any. */
  sheet?: () => Sheet | null;
  /** What is open there, in a word or two, under its stone. */
  says?: () => string;
  /** Its band of the ledger in one sentence, as it reads from other stations; "" where there is nothing to say. */
  band?: () => string;
}
/** The path, from frames to the print. Stones without a station are yet to come. */
export const PATH = ["Gather", "Join", "Ground", "Light", "Mend", "Proof"];
/** The bands of the ledger, in computing order: Mend lies under Light, however late it was done. */
export const BANDS = ["Join", "Ground", "Mend", "Light", "Proof"];
