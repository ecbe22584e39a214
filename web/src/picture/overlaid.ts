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
  const { width, height, data } = mask.data;
  const one = new Uint8ClampedArray(width * height);
  for (let i = 0; i < one.length; i++) one[i] = data[4 * i]!;
  const under = new OffscreenCanvas(width, height).getContext("2d")!;
  if (shot) under.drawImage(shot.bitmap, 0, 0, width, height);
  const tint = tintAgainst(under.getImageData(0, 0, width, height).data, one);
  under.putImageData(new ImageData(overlay(one, width, mask.look, tint), width), 0, 0);
  pen.drawImage(under.canvas, ...place(mask.region));
}
