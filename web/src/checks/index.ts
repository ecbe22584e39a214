/** All checks there are, by their keys, digits as they lie: what the files of kinds/ say. */
import type { SceneDocument } from "../api/client";
import type { Check, From } from "./check";

/** Digits as they lie, 0 last; then letters. */
const placeOf = (key: string) => (key === "0" ? 10 : Number(key) || 11);
const files = import.meta.glob<{ default: Check }>("./kinds/*.ts", { eager: true });
export const CHECKS: Check[] = Object.values(files)
  .map((file) => file.default)
  .sort((a, b) => placeOf(a.key) - placeOf(b.key));

/** A check by its name; "" is none. */
export const checkOf = (what: string, checks = CHECKS): Check | undefined =>
  checks.find((c) => c.what === what);

/** What a check is called at a station. */
export const labelOf = (check: Check, station: string): string =>
  typeof check.label === "function" ? check.label(station) : check.label;

/** What a check shows, as told at a station. */
export const toldOf = (check: Check | undefined, station: string): string =>
  typeof check?.said === "function" ? check.said(station) : (check?.said ?? "");

/** The document a check looks at. The one given is not changed. Latches stay in it, so that they can be measured; they
 * change nothing by themselves. */
export function checked(document: SceneDocument, check: Check | undefined, from: From): SceneDocument {
  const doc = JSON.parse(JSON.stringify(document)) as SceneDocument;
  check?.document?.(doc, from);
  return doc;
}
