/** Mask looks, drawn over the picture from a grey mask. */

export type MaskLook = "tint" | "grey" | "contour" | "inside";
export const MASK_LOOKS: Record<MaskLook, string> = {
  tint: "Tint",
  grey: "Mask",
  contour: "Contour",
  inside: "Inside",
};

type Rgb = [number, number, number];
const CANDIDATES: Rgb[] = [
  [230, 40, 140],
  [30, 190, 80],
  [20, 190, 200],
  [240, 200, 20],
  [130, 60, 220],
];

/** Colour without its lightness: two differences from the mean. */
function chroma(r: number, g: number, b: number): [number, number] {
  const grey = (r + g + b) / 3;
  return [r - grey, b - grey];
}

/** The tint that differs most from the colours it will lie on. pixels: RGBA; mask: 0–255. */
export function tintAgainst(pixels: Uint8ClampedArray, mask: Uint8ClampedArray): Rgb {
  const stride = Math.max(1, Math.floor(mask.length / 2000));
  const held: [number, number][] = [];
  for (let i = 0; i < mask.length; i += stride)
    if (mask[i]! > 40) held.push(chroma(pixels[4 * i]!, pixels[4 * i + 1]!, pixels[4 * i + 2]!));
  /** How far a tint is from the tenth of the held colours that come closest to it. */
  const away = (c: Rgb) => {
    const [u, v] = chroma(...c);
    const far = held.map(([a, b]) => Math.hypot(a - u, b - v)).sort((a, b) => a - b);
    return far[Math.floor(far.length / 10)] ?? 0;
  };
  return CANDIDATES.reduce((best, c) => (away(c) > away(best) ? c : best));
}

/** RGBA overlay of a mask (one byte a pixel) in a look. */
export function overlay(
  mask: Uint8ClampedArray,
  width: number,
  look: MaskLook,
  tint: Rgb,
): Uint8ClampedArray<ArrayBuffer> {
  // a pixel as one number: millions of them are laid whenever a mask changes
  const pixels = new Uint32Array(mask.length);
  const colours = new Uint8ClampedArray(4 * 256);
  const as = new Uint32Array(colours.buffer);
  if (look === "contour") {
    colours.set([...tint, 255]);
    const ink = as[0]!;
    for (let i = 0; i < mask.length; i++) {
      const band = mask[i]! >> 6;
      const edge = band !== (mask[i + 1] ?? mask[i]!) >> 6 || band !== (mask[i + width] ?? mask[i]!) >> 6;
      if (edge && (i + 1) % width !== 0) pixels[i] = ink;
    }
  } else {
    for (let m = 0; m < 256; m++) {
      if (look === "grey") colours.set([m, m, m, 255], 4 * m);
      else if (look === "inside") colours.set([128, 128, 128, 255 - m], 4 * m);
      else colours.set([...tint, m * 0.62], 4 * m);
    }
    for (let i = 0; i < mask.length; i++) pixels[i] = as[mask[i]!]!;
  }
  return new Uint8ClampedArray(pixels.buffer);
}
