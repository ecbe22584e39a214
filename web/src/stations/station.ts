/** A stone of the path. A folder with an index.ts that says this is a station, and all that has to be written for it. */
import type { Component } from "vue";

export interface Station {
  /** Its name on the path; in the address it is written small. */
  name: string;
  /** The column beside the picture. */
  side: Component;
  /** What is open there, in a word or two, under its stone. */
  says?: () => string;
}
/** The path, from frames to the print. Stones without a station are yet to come. */
export const PATH = ["Gather", "Join", "Ground", "Light", "Mend", "Proof"];
