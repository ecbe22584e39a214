/** Mend's verbs: tools by the words they are taken in hand by, and what each does. */
export const TAKE_OUT = [
  { tool: "speck", glyph: "speck", word: "Spot", hint: "Point at dust spots, one by one" },
  { tool: "heal", glyph: "heal", word: "Heal", hint: "Texture from elsewhere, light and colour from around" },
  { tool: "clone", glyph: "clone", word: "Clone", hint: "Copy from another place" },
  { tool: "wire", glyph: "wire", word: "Wire", hint: "A thin line, followed between places pointed at" },
  { tool: "regrow", glyph: "regrow", word: "Regrow", hint: "Fill an outline from what surrounds it" },
];
export const SHAPE = [
  {
    tool: "bend",
    glyph: "straighten",
    word: "Straighten",
    hint: "Point along what should be a straight line",
  },
  { tool: "pin", glyph: "pin", word: "Pin", hint: "Fix or drag a point" },
  {
    tool: "pull nearer",
    glyph: "pull",
    word: "Enlarge",
    hint: "Enlarge foreground: outline it; it grows toward its lower edge",
  },
  {
    tool: "nudge",
    glyph: "nudge",
    word: "Nudge",
    hint: "Push, enlarge, shrink, smooth or restore, by brush",
  },
];
export const LOOK = [
  {
    tool: "hide",
    glyph: "hide",
    word: "Hide",
    hint: "Preview the picture without a thing: does it still balance?",
  },
];
