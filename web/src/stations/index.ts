/** All stations at which a scene is worked on: what the folders say. */
import { BANDS, PATH, type Station } from "./station";

const files = import.meta.glob<{ default: Station }>("./*/index.ts", { eager: true });
const inOrder = (s: Station) => PATH.indexOf(s.name);
export const STATIONS: Station[] = Object.values(files)
  .map((file) => file.default)
  .sort((a, b) => inOrder(a) - inOrder(b));

export const slugOf = (name: string): string => name.toLowerCase();
export const stationOf = (slug: string, stations = STATIONS): Station | undefined =>
  stations.find((s) => slugOf(s.name) === slug);

/** Where a stone of the path leads; "" where nothing is there. */
export function wayTo(stone: string, scene?: string, outing?: string, stations = STATIONS): string {
  if (stone === "Gather") return outing ? `/outing/${outing}` : "/";
  return scene && stationOf(slugOf(stone), stations) ? `/${slugOf(stone)}/${scene}` : "";
}
/** The next stone with something there, so many along the path; "" at its ends. */
export function along(
  from: string,
  by: 1 | -1,
  scene?: string,
  outing?: string,
  stations = STATIONS,
): string {
  for (let n = PATH.indexOf(from) + by; n >= 0 && n < PATH.length; n += by) {
    const way = wayTo(PATH[n]!, scene, outing, stations);
    if (way) return way;
  }
  return "";
}

/** The stations whose bands lie under that of one, or over it, in computing order. */
export function bandsBeside(at: string, side: "under" | "over", stations = STATIONS): Station[] {
  const here = BANDS.indexOf(at);
  return BANDS.filter((_, n) => (side === "under" ? n < here : n > here))
    .map((name) => stations.find((s) => s.name === name))
    .filter((s): s is Station => !!s?.band);
}
