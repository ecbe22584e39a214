/** Mask looks, drawn over the picture from a grey mask. */

export type MaskLook = "tint" | "grey" | "contour" | "inside";
export const MASK_LOOKS: Record<MaskLook, string> = {
  tint: "Tint",
  grey: "Black and white",
  contour: "Contour",
  inside: "Only inside",
};

type Rgb = [number, number, number];
const CANDIDATES: Rgb[] = [
  [230, 40, 140],
  [30, 190, 80],
  [20, 190, 200],
  [240, 200, 20],
  [130, 60, 220],
];

/** The tint that differs most from the colours it will lie on. pixels: RGBA; mask: 0–255. */
export function tintAgainst(pixels: Uint8ClampedArray, mask: Uint8ClampedArray): Rgb {
  const sum = [0, 0, 0];
  let weight = 1e-6;
  for (let i = 0; i < mask.length; i += 7) {
    const m = mask[i]! / 255;
    weight += m;
    for (let k = 0; k < 3; k++) sum[k]! += m * pixels[4 * i + k]!;
  }
  const mean = sum.map((s) => s / weight);
  const away = (c: Rgb) => c.reduce((d, v, k) => d + (v - mean[k]!) ** 2, 0);
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
