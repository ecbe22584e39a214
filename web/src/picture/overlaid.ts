/** A picture drawn on its stage, and what lies over it. */
import type { Frame, Region } from "../model/plane";
import { overlay, tintAgainst, type MaskLook } from "../model/tint";
import type { Size } from "./viewport";

export interface Mask {
  data: ImageData;
  region: Region;
  look: MaskLook;
}
interface Drawn {
  bitmap: ImageBitmap;
  region: Region;
}

/** Draw a picture, and over it a mask, where their regions lie now. */
export function draw(
  surface: HTMLCanvasElement,
  size: Size,
  f: Frame,
  shot: Drawn | null,
  mask: Mask | null,
  dpr = 1,
): void {
  surface.width = Math.round(size.width * dpr);
  surface.height = Math.round(size.height * dpr);
  const pen = surface.getContext("2d", { willReadFrequently: true })!;
  pen.scale(dpr, dpr);
  pen.imageSmoothingQuality = "high";
  const place = (r: Region) =>
    [
      f.left + r[0] * f.width,
      f.top + r[1] * f.height,
      (r[2] - r[0]) * f.width,
      (r[3] - r[1]) * f.height,
    ] as const;
  if (shot) pen.drawImage(shot.bitmap, ...place(shot.region));
  if (!mask) return;
  pen.drawImage(laid(mask, shot), ...place(mask.region));
}

/** What was laid last, of each mask: a view that is moved draws it again as it is. */
const kept = new WeakMap<ImageData, { look: MaskLook; under: ImageBitmap | null; canvas: OffscreenCanvas }>();

/** A mask in its look, in a tint that stands out from what lies under it. */
function laid({ data: grey, look }: Mask, shot: Drawn | null): OffscreenCanvas {
  const under = shot?.bitmap ?? null;
  const last = kept.get(grey);
  if (last?.look === look && last.under === under) return last.canvas;
  const { width, height, data } = grey;
  const mask = new Uint8ClampedArray(width * height);
  for (let i = 0; i < mask.length; i++) mask[i] = data[4 * i]!;
  const pen = new OffscreenCanvas(width, height).getContext("2d", { willReadFrequently: true })!;
  if (under) pen.drawImage(under, 0, 0, width, height);
  const tint = tintAgainst(pen.getImageData(0, 0, width, height).data, mask);
  pen.putImageData(new ImageData(overlay(mask, width, look, tint), width), 0, 0);
  kept.set(grey, { look, under, canvas: pen.canvas });
  return pen.canvas;
}
