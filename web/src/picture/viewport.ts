/** Which part of a picture is seen, and how large. */
import { computed, reactive, ref, type Ref } from "vue";

import {
  centred,
  onPicture,
  pinched,
  placed,
  visible,
  wheeled,
  type Frame,
  type Region,
  type Spot,
} from "../model/plane";

/** zoom: 0 fits the whole picture; else px of the device per px of it. centre: what lies in the middle, fractions. */
export interface Viewport {
  zoom: number;
  centre: Spot;
}
export interface Size {
  width: number;
  height: number;
}
/** What has to be asked for to fill it. */
export interface Target extends Size {
  region: Region;
}

export const viewport = (): Viewport => reactive({ zoom: 0, centre: { x: 0.5, y: 0.5 } });

/** Stage px left free around a picture that fits. */
const MARGIN = 20;
/** None on a narrow window: there the picture takes the whole width. */
const NARROW = 800;
const margin = (width: number) => (width < NARROW ? 0 : MARGIN);
/** A sheet on which the picture lies: its rectangle, in widths and heights of the whole picture. */
export type Sheet = Frame;
const NOWHERE: Frame = { left: 0, top: 0, width: 1, height: 1 };
export const within = (v: number) => Math.min(1, Math.max(0, v));

/** `seen`: what is looked at; `plane`: the size of the whole picture, px; `size`: of the stage, px; `ratio`: px of the device to
 * one of the stage; `sheet`: what is fitted in its place, if anything. */
export function useViewport(
  seen: Viewport,
  plane: Ref<Size | null>,
  size: Ref<Size>,
  ratio: Ref<number>,
  sheet: Ref<Sheet | null> = ref(null),
) {
  function whole(): Frame {
    const on = sheet.value;
    const [full, centre] = [plane.value!, seen.centre];
    if (!on) return placed(size.value, full, 0, centre, margin(size.value.width), ratio.value);
    const outer = { width: full.width * on.width, height: full.height * on.height };
    const at = placed(size.value, outer, 0, centre, margin(size.value.width), ratio.value);
    const [width, height] = [at.width / on.width, at.height / on.height];
    return { left: at.left - on.left * width, top: at.top - on.top * height, width, height };
  }
  /** Where the whole picture lies on the stage. */
  const frame = computed(() => {
    if (!plane.value) return NOWHERE;
    if (!seen.zoom) return whole();
    return placed(
      size.value,
      plane.value,
      seen.zoom / ratio.value,
      seen.centre,
      margin(size.value.width),
      ratio.value,
    );
  });
  const fitted = () => (whole().width / plane.value!.width) * ratio.value;

  function target(scale = 1): Target {
    const region = visible(size.value, frame.value, ratio.value);
    const dpr = ratio.value * scale;
    return {
      region,
      width: Math.max(1, Math.round((region[2] - region[0]) * frame.value.width * dpr)),
      height: Math.max(1, Math.round((region[3] - region[1]) * frame.value.height * dpr)),
    };
  }
  /** Larger or smaller about a place of the stage: by so many px of a wheel, or so many times. */
  function zoomBy(delta: number, on: Spot): void {
    if (plane.value) about(on, wheeled(seen.zoom, fitted(), delta));
  }
  function scaleBy(factor: number, on: Spot): void {
    if (plane.value) about(on, pinched(seen.zoom, fitted(), factor));
  }
  /** Another zoom, at which what lies at a place of the stage (px) stays there. */
  function about(on: Spot, zoom: number): void {
    if (zoom === seen.zoom || !plane.value) return;
    const near = zoom / ratio.value;
    seen.centre = centred(size.value, plane.value, near, onPicture(frame.value, on), on);
    seen.zoom = zoom;
  }
  /** Carry the picture by so many px of the stage. */
  function panBy(by: Spot): void {
    if (!seen.zoom) return;
    seen.centre = {
      x: within(seen.centre.x - by.x / frame.value.width),
      y: within(seen.centre.y - by.y / frame.value.height),
    };
  }
  return { frame, target, zoomBy, scaleBy, panBy };
}
