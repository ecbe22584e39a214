/** Mend's verbs: tools by the words they are taken in hand by. */
export const TAKE_OUT = [
  { tool: "speck", word: "Speck", hint: "Point at specks, one by one" },
  { tool: "heal", word: "Heal", hint: "Texture from elsewhere, light and colour from around" },
  { tool: "clone", word: "Clone", hint: "Another place as it is" },
  { tool: "wire", word: "Wire", hint: "A thin line, followed between places pointed at" },
  { tool: "regrow", word: "Regrow", hint: "Fill an outline from what surrounds it" },
];
export const SHAPE = [
  { tool: "bend", word: "Straighten", hint: "Point along what should be a straight line" },
  { tool: "pin", word: "Pin", hint: "Hold a place, or carry it elsewhere" },
  { tool: "pull nearer", word: "Pull nearer", hint: "Outline a foreground; it grows toward its lower edge" },
  { tool: "nudge", word: "Nudge", hint: "Carry, swell, draw in, settle, put back, by brush" },
];
export const LOOK = [{ tool: "hide", word: "Hide", hint: "Look at the picture without a thing" }];
