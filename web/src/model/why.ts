/** Why a place is in a latch: which of its ingredients decides. */
export interface Term {
  id: string;
  join: string;
  value: number;
}

/** The ingredients' values joined downward, as the core joins them. */
export function joined(terms: Term[]): number {
  let mask: number | null = null;
  for (const t of terms) {
    if (mask === null) mask = t.join === "take_away" ? 1 - t.value : t.value;
    else if (t.join === "add") mask = 1 - (1 - mask) * (1 - t.value);
    else if (t.join === "keep_only") mask *= t.value;
    else mask *= 1 - t.value;
  }
  return mask ?? 0;
}

/** The ingredient without which the place would be held most differently; null where none matters. */
export function deciding(terms: Term[]): string | null {
  const whole = joined(terms);
  let best: string | null = null;
  let most = 0.02;
  for (const t of terms) {
    const change = Math.abs(joined(terms.filter((o) => o !== t)) - whole);
    if (change > most) {
      most = change;
      best = t.id;
    }
  }
  return best;
}
