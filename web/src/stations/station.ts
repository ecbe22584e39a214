/** A stone of the path. A folder with an index.ts that says this is a station, and all that has to be written for it. */
import type { Component } from "vue";

export interface Station {
  /** Its name on the path; in the address it is written small. */
  name: string;
  /** The column beside the picture. */
  side: Component;
  /** What lies above the picture, if anything: its verbs in one row. */
  above?: Component;
  /** What lies below the picture, if anything. */
  below?: Component;
  /** What is open there, in a word or two, under its stone. */
  says?: () => string;
  /** Its band of the ledger in one sentence, as it reads from other stations; "" where there is nothing to say. */
  band?: () => string;
}
/** The path, from frames to the print. Stones without a station are yet to come. */
export const PATH = ["Gather", "Join", "Ground", "Light", "Mend", "Proof"];
/** The bands of the ledger, in computing order: Mend lies under Light, however late it was done. */
export const BANDS = ["Join", "Ground", "Mend", "Light", "Proof"];
