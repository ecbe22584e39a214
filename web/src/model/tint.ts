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
  const out = new Uint8ClampedArray(mask.length * 4);
  const band = (v: number) => Math.floor(v / 64);
  for (let i = 0; i < mask.length; i++) {
    const m = mask[i]!;
    const o = 4 * i;
    if (look === "grey") {
      out.set([m, m, m, 255], o);
    } else if (look === "inside") {
      out.set([128, 128, 128, 255 - m], o);
    } else if (look === "tint") {
      out.set([tint[0], tint[1], tint[2], m * 0.62], o);
    } else {
      const edge = band(m) !== band(mask[i + 1] ?? m) || band(m) !== band(mask[i + width] ?? m);
      if (edge && (i + 1) % width !== 0) out.set([tint[0], tint[1], tint[2], 255], o);
    }
  }
  return out;
}
