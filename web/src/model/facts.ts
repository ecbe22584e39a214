/** A frame's exposure data in a photographer's words. */

export type Facts = Record<string, unknown>;

function shutter(seconds: number): string {
  return seconds >= 0.4 ? `${Number(seconds.toFixed(1))} s` : `1/${Math.round(1 / seconds)} s`;
}

/** "1/30 s · f/8 · ISO 100 · 26 mm", leaving out what the file does not say. */
export function exposure(info: Facts): string {
  const said: string[] = [];
  if (typeof info.exposure_s === "number") said.push(shutter(info.exposure_s));
  if (typeof info.f_number === "number") said.push(`f/${Number(info.f_number.toFixed(1))}`);
  if (typeof info.iso === "number") said.push(`ISO ${info.iso}`);
  if (typeof info.focal_mm === "number") said.push(`${Number(info.focal_mm.toFixed(1))} mm`);
  return said.length ? said.join(" · ") : "no exposure data";
}

/** A moment as it is said: "28 Nov 2026, 21:40", as the reader's own clock has it. */
export function moment(iso: string | number): string {
  return new Date(iso).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
}

/** Rows for the facts sheet. */
export function sheet(info: Facts, name: string): [string, string][] {
  const size = info.developed_size as number[] | undefined;
  const megapixels = (Number(info.width) * Number(info.height)) / 1e6;
  const rows: [string, string][] = [
    ["File", name],
    ["Exposure", exposure(info)],
    ["Camera", `${String(info.maker ?? "")} ${String(info.model ?? "")}`.trim() || "not said"],
    ["Taken", String(info.taken ?? "").replace(/^(\d{4}):(\d\d):/, "$1-$2-") || "not said"],
    ["Size", `${size?.[0] ?? "?"} × ${size?.[1] ?? "?"} px, ${megapixels.toFixed(1)} megapixels`],
  ];
  for (const note of (info.notes as string[] | undefined) ?? []) rows.push(["Note", note]);
  return rows;
}
