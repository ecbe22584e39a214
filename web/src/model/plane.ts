/** Where things are: source coordinates ↔ fractions of the shown picture ↔ the stage. */
import type { Schemas } from "../api/client";

export interface Spot {
  x: number;
  y: number;
}
export type Region = [number, number, number, number];
export type Map = Schemas["MapOut"];

/** The map the server gives with every picture, as a mesh over the turned plane (sunlatch/geometry/nodes.py): between its
 * nodes lies the cubic through four of them each way, beyond its rim it goes on straight. */
export class Plane {
  private readonly columns: number;
  private readonly rows: number;
  private readonly source: Float32Array;

  constructor(readonly map: Map) {
    const bytes = Uint8Array.from(atob(map.mesh.source), (c) => c.charCodeAt(0));
    this.source = new Float32Array(bytes.buffer);
    this.columns = map.mesh.columns;
    this.rows = this.source.length / 2 / this.columns;
  }

  get width(): number {
    return this.map.size[0]!;
  }
  get height(): number {
    return this.map.size[1]!;
  }

  /** Source coordinates to the turned plane: from the nearest node on by Newton's method. */
  toTurned(p: Spot): Spot {
    let g = this.nearest(p);
    for (let n = 0; n < 12; n++) {
      const here = this.asked(g);
      const [dx, dy] = [p.x - here.x, p.y - here.y];
      const det = here.xx * here.yy - here.xy * here.yx;
      if (Math.abs(dx) + Math.abs(dy) < 1e-10 || Math.abs(det) < 1e-9) break;
      g = {
        x: g.x + held((here.yy * dx - here.xy * dy) / det),
        y: g.y + held((here.xx * dy - here.yx * dx) / det),
      };
    }
    return g;
  }

  /** The turned plane to source coordinates. */
  fromTurned(g: Spot): Spot {
    const { x, y } = this.asked(g);
    return { x, y };
  }

  /** Source coordinates to fractions of the shown picture. */
  toPicture(p: Spot): Spot {
    const [x0, y0, x1, y1] = this.map.box as Region;
    const g = this.toTurned(p);
    return { x: (g.x - x0) / (x1 - x0), y: (g.y - y0) / (y1 - y0) };
  }

  /** Fractions of the shown picture to source coordinates. */
  toSource(p: Spot): Spot {
    const [x0, y0, x1, y1] = this.map.box as Region;
    return this.fromTurned({ x: x0 + p.x * (x1 - x0), y: y0 + p.y * (y1 - y0) });
  }

  /** Length on the picture per length on the frame at a place (fractions of the shown picture), the larger way. */
  stretch(p: Spot): number {
    const [x0, y0, x1, y1] = this.map.box as Region;
    const { xx, xy, yx, yy } = this.asked({ x: x0 + p.x * (x1 - x0), y: y0 + p.y * (y1 - y0) });
    const [sum, det] = [xx * xx + xy * xy + yx * yx + yy * yy, xx * yy - xy * yx];
    const least = (sum - Math.sqrt(Math.max(0, sum * sum - 4 * det * det))) / 2;
    return 1 / Math.sqrt(Math.max(least, 1e-6));
  }

  /** Where a place comes from, and how that changes along both axes (xy: x with y). */
  private asked(g: Spot) {
    const { start, step } = this.map.mesh;
    const u = along((g.x - start[0]!) / step, this.columns);
    const v = along((g.y - start[1]!) / step, this.rows);
    const out = { x: 0, y: 0, xx: 0, xy: 0, yx: 0, yy: 0 };
    for (let j = 0; j < 4; j++)
      for (let i = 0; i < 4; i++) {
        const at = 2 * ((v.first + j) * this.columns + u.first + i);
        const x = this.source[at]!;
        const y = this.source[at + 1]!;
        const [w, dx, dy] = [
          v.weight[j]! * u.weight[i]!,
          v.weight[j]! * u.slope[i]!,
          v.slope[j]! * u.weight[i]!,
        ];
        out.x += w * x;
        out.y += w * y;
        out.xx += (dx * x) / step;
        out.xy += (dy * x) / step;
        out.yx += (dx * y) / step;
        out.yy += (dy * y) / step;
      }
    return out;
  }

  private nearest(p: Spot): Spot {
    const { start, step } = this.map.mesh;
    const source = this.source;
    let best = 0;
    let least = Infinity;
    for (let n = 0; n < source.length; n += 2) {
      const d = (source[n]! - p.x) ** 2 + (source[n + 1]! - p.y) ** 2;
      if (d < least) [least, best] = [d, n / 2];
    }
    const i = Math.min(Math.max((best % this.columns) - 1, 0), this.columns - 3);
    const j = Math.min(Math.max(Math.floor(best / this.columns) - 1, 0), this.rows - 3);
    return { x: start[0]! + i * step, y: start[1]! + j * step };
  }
}

/** The four nodes about a place counted in steps from the second, their weights (Lagrange) and what these change by per
 * step; beyond the mesh they go on straight. */
function along(t: number, count: number) {
  const within = Math.min(Math.max(t, 0), count - 3);
  const first = Math.min(Math.floor(within), count - 4);
  const f = within - first;
  const [a, b, c] = [f + 1, f - 1, f - 2];
  const slope = [
    -(b * c + f * c + f * b) / 6, (b * c + a * c + a * b) / 2,
    -(f * c + a * c + a * f) / 2, (f * b + a * b + a * f) / 6,
  ]; // prettier-ignore
  const weight = [-f * b * c / 6, a * b * c / 2, -a * f * c / 2, a * f * b / 6]; // prettier-ignore
  return { first, slope, weight: weight.map((w, n) => w + slope[n]! * (t - within)) };
}

/** A step of Newton's, not longer than a fifth of the frame. */
function held(step: number): number {
  return Math.min(Math.max(step, -0.2), 0.2);
}

export interface Frame {
  /** Stage px of the picture's left, top, width and height at the present zoom. */
  left: number;
  top: number;
  width: number;
  height: number;
}

/** A place on the stage, for fractions of the picture. */
export function onStage(frame: Frame, p: Spot): Spot {
  return { x: frame.left + p.x * frame.width, y: frame.top + p.y * frame.height };
}

/** Fractions of the picture, for a place on the stage. */
export function onPicture(frame: Frame, p: Spot): Spot {
  return { x: (p.x - frame.left) / frame.width, y: (p.y - frame.top) / frame.height };
}

/** Where the whole picture lies on a stage, on whole px of the device. `zoom` 0 fits it; else stage px per picture px; `ratio`:
 * px of the device to one of the stage. */
export function placed(
  stage: { width: number; height: number },
  plane: { width: number; height: number },
  zoom: number,
  centre: Spot,
  margin = 20,
  ratio = 1,
): Frame {
  const whole = (v: number) => Math.round(v * ratio) / ratio;
  if (zoom === 0) {
    const scale = Math.min(
      (stage.width - 2 * margin) / plane.width,
      (stage.height - 2 * margin) / plane.height,
      1 / ratio,
    );
    const width = Math.max(1, whole(plane.width * scale));
    const height = Math.max(1, whole(plane.height * scale));
    return {
      width,
      height,
      left: whole((stage.width - width) / 2),
      top: whole((stage.height - height) / 2),
    };
  }
  const width = plane.width * zoom;
  const height = plane.height * zoom;
  const hold = (c: number, size: number, room: number) =>
    size <= room ? whole((room - size) / 2) : whole(Math.min(0, Math.max(room - size, room / 2 - c * size)));
  return {
    width,
    height,
    left: hold(centre.x, width, stage.width),
    top: hold(centre.y, height, stage.height),
  };
}

/** Wheel px for twice as large. */
const TWICE = 240;
/** The zooms one stays at in passing: they show px as they are. */
const STAYS = [1, 2];
const LARGEST = 4;

/** The zoom after so many px of a wheel; `fitted` is the scale at which the whole picture fits, which is zoom 0. */
export function wheeled(zoom: number, fitted: number, delta: number): number {
  const before = zoom || fitted;
  const next = before * 2 ** (-delta / TWICE);
  const stay = STAYS.find((s) => (before < s && next >= s) || (before > s && next <= s));
  return stay && stay > fitted ? stay : pinched(zoom, fitted, next / before);
}

/** The zoom so many times as large, staying nowhere: between two fingers. */
export function pinched(zoom: number, fitted: number, factor: number): number {
  const next = (zoom || fitted) * factor;
  return next <= fitted * 1.001 ? 0 : Math.min(next, Math.max(LARGEST, fitted));
}

/** The centre at which a place of the picture (fractions) lies at a place of the stage (px). */
export function centred(
  stage: { width: number; height: number },
  plane: { width: number; height: number },
  zoom: number,
  at: Spot,
  on: Spot,
): Spot {
  const within = (v: number) => Math.min(1, Math.max(0, v));
  return {
    x: within(at.x + (stage.width / 2 - on.x) / (plane.width * (zoom || 1))),
    y: within(at.y + (stage.height / 2 - on.y) / (plane.height * (zoom || 1))),
  };
}

/** The visible part in fractions of the picture, on whole px of the device (`ratio` to one of the stage). */
export function visible(stage: { width: number; height: number }, frame: Frame, ratio = 1): Region {
  const up = (v: number) => Math.ceil(v * ratio - 1e-6) / ratio;
  const x0 = Math.max(0, -frame.left) / frame.width;
  const y0 = Math.max(0, -frame.top) / frame.height;
  const x1 = Math.min(up(stage.width - frame.left), frame.width) / frame.width;
  const y1 = Math.min(up(stage.height - frame.top), frame.height) / frame.height;
  return [x0, y0, Math.max(x1, x0), Math.max(y1, y0)];
}
