/** A way to look at the picture that changes nothing of it: held by its key, or pinned. A file of kinds/ is one, and all that
 * has to be written for it. */
import type { Component } from "vue";

import type { SceneDocument } from "../api/client";

/** From where one looks: the station, and the id of the open move, or the kind of the open line of Ground. */
export interface From {
  station: string;
  line: string | null;
}
export interface Check {
  /** Its name, and its digit, the same at every station. */
  what: string;
  key: string;
  label: string | ((station: string) => string);
  /** What it shows, as told at a station. */
  said: string | ((station: string) => string);
  /** Whether it has anything to show of this scene; always, where it does not say. */
  fits?: () => boolean;
  /** Changes a copy of the document to the one that is shown. */
  document?: (doc: SceneDocument, from: From) => void;
  /** What is shown of the picture instead of itself. */
  shows?: "limits" | "squint" | "specks" | "grey";
  /** Shown on the scene's paper. */
  proof?: "gamut";
  /** How the picture is turned on the screen, as CSS says it. */
  turned?: string;
  /** Colour so many times as vivid. */
  push?: number;
  /** Drawn over the picture, given `frame`, `size` and `what`. */
  over?: Component;
}
