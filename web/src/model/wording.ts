/** How declared parameters read: the same rules as the core's `shown` and `read`. */
import type { Kind, ParamField, Values } from "../api/client";

export type { Values };

export type Part = { text: string } | { field: ParamField };

/** Split "Exposure {ev}" into text and fields. */
export function parts(kind: Kind): Part[] {
  return kind.sentence
    .split(/(\{\w+\})/)
    .filter((piece) => piece !== "")
    .map((piece) => {
      const name = /^\{(\w+)\}$/.exec(piece)?.[1];
      const field = name ? kind.fields.find((f) => f.name === name) : undefined;
      return field ? { field } : { text: piece };
    });
}

/** A number as shown: sign, decimals, true minus; without its unit. */
export function numeral(field: ParamField, value: number): string {
  const shown = value * (field.shown_times ?? 1);
  const text = Math.abs(shown).toFixed(field.decimals ?? 1);
  if (Number(text) === 0) return text;
  if (shown < 0) return `−${text}`;
  return field.signed ? `+${text}` : text;
}

/** Light against some other, in stops: "+0.4", "−1.2", "0.0". */
export function signedStops(value: number): string {
  const text = Math.abs(value).toFixed(1);
  if (Number(text) === 0) return text;
  return value < 0 ? `−${text}` : `+${text}`;
}

/** How many things are drawn; a sheet holds many. */
function howMany(drawn: unknown): number {
  if (!Array.isArray(drawn)) return 0;
  return (drawn as { count?: number }[]).reduce((sum, one) => sum + (one.count ?? 1), 0);
}

/** A value as it reads in a sentence. */
export function shown(field: ParamField, value: unknown): string {
  if (field.kind === "choice") return field.words?.[String(value)] ?? String(value);
  if (field.kind === "drawn") return String(howMany(value));
  if (field.kind === "box" && value) return "in its box";
  if (field.kind === "latch") return value ? String(value) : "no latch yet";
  if (typeof value !== "number") return field.automatic || "automatic";
  const unit = field.unit ?? "";
  return unit === "°" ? `${numeral(field, value)}${unit}` : `${numeral(field, value)} ${unit}`.trimEnd();
}

/** A kind's sentence filled in. */
export function sentence(kind: Kind, values: Values): string {
  return parts(kind)
    .map((p) => ("text" in p ? p.text : shown(p.field, values[p.field.name])))
    .join("");
}

/** A typed number with or without unit, comma or true minus, as stored; null if it is none. */
export function typed(field: ParamField, text: string): number | null {
  const cleaned = text
    .replace("−", "-")
    .replace(",", ".")
    .replace(/[^\d.+-]/g, "");
  const value = Number(cleaned);
  if (cleaned === "" || !Number.isFinite(value)) return null;
  return within(field, value / (field.shown_times ?? 1));
}

/** A value kept inside its declared range and free of binary dust. */
export function within(field: ParamField, value: number): number {
  const low = field.low ?? -Infinity;
  const high = field.high ?? Infinity;
  return Number(Math.min(high, Math.max(low, value)).toFixed(6));
}

export interface TypedMove {
  kind: Kind;
  values: Values;
  latch: string | null;
  /** A latch was named, and there is none of that name. */
  unknown: string;
}

/** Read "burn sky 0.9": a verb, perhaps a latch's name, perhaps a number. Null if there is no verb. */
export function typedMove(
  text: string,
  kinds: Kind[],
  latches: { id: string; name: string }[],
): TypedMove | null {
  const words = text.trim().toLowerCase().split(/\s+/);
  const verb = words.shift() ?? "";
  const kind = kinds.find((k) => k.band === "light" && (k.kind === verb || k.verbs?.includes(verb)));
  if (!kind) return null;
  const values: Values = {};
  const number = words.find((w) => /^[+\-−]?\d+([.,]\d+)?%?$/.test(w));
  const field = kind.fields.find((f) => f.name === kind.first);
  if (field && number !== undefined) {
    const value = typed(field, number);
    const sign = kind.signs?.[verb];
    if (value !== null) values[field.name] = within(field, sign ? sign * Math.abs(value) : value);
  }
  const rest = words.filter((w) => w !== number && !/^(%|stops?|px|k|mm|°)$/.test(w)).join(" ");
  const latch = latches.find((l) => rest !== "" && l.name.toLowerCase() === rest) ?? null;
  return { kind, values, latch: latch?.id ?? null, unknown: latch ? "" : rest };
}
