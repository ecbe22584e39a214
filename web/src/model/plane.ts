/** Where things are: source coordinates ↔ fractions of the shown picture ↔ the stage. */
import type { Schemas } from "../api/client";

export interface Spot {
  x: number;
  y: number;
}
export type Region = [number, number, number, number];
export type Map = Schemas["MapOut"];

/** The map the server gives with every picture; the formulas are those of sunlatch/geometry. */
export class Plane {
  private readonly back: number[];

  constructor(readonly map: Map) {
    this.back = inverse(map.forward);
  }

  get width(): number {
    return this.map.size[0]!;
  }
  get height(): number {
    return this.map.size[1]!;
  }

  /** Source coordinates to the turned plane. */
  toTurned(p: Spot): Spot {
    const [mx = 0, my = 0] = this.map.middle;
    const x = p.x - mx;
    const y = p.y - my;
    const seen = Math.hypot(x, y) / this.map.half_diagonal;
    const scale = seen > 1e-9 ? this.ideal(seen) / seen : 1;
    return through(this.map.forward, x * scale, y * scale);
  }

  /** The turned plane to source coordinates. */
  fromTurned(g: Spot): Spot {
    const p = through(this.back, g.x, g.y);
    const r2 = Math.min((p.x * p.x + p.y * p.y) / this.map.half_diagonal ** 2, 2.1);
    const f = this.factor(r2);
    return { x: p.x * f + this.map.middle[0]!, y: p.y * f + this.map.middle[1]! };
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

  private factor(r2: number): number {
    const [k0 = 0, k1 = 0, k2 = 0, k3 = 0] = this.map.distortion;
    return 1 + k0 + r2 * (k1 + r2 * (k2 + r2 * k3));
  }

  /** The radius an ideal lens would have drawn, by Newton's method. */
  private ideal(seen: number): number {
    const [k0 = 0, k1 = 0, k2 = 0, k3 = 0] = this.map.distortion;
    let r = seen;
    for (let n = 0; n < 12; n++) {
      const r2 = r * r;
      const slope = 1 + k0 + r2 * (3 * k1 + r2 * (5 * k2 + r2 * 7 * k3));
      r -= (r * this.factor(r2) - seen) / Math.max(slope, 0.05);
    }
    return r;
  }
}

function through(m: number[], x: number, y: number): Spot {
  const d = Math.max(m[6]! * x + m[7]! * y + m[8]!, 1e-3);
  return { x: (m[0]! * x + m[1]! * y + m[2]!) / d, y: (m[3]! * x + m[4]! * y + m[5]!) / d };
}

/** The inverse of a 3×3, scaled to 1 at its last place. */
function inverse(m: number[]): number[] {
  const [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0, g = 0, h = 0, i = 0] = m;
  const out = [
    e * i - f * h, c * h - b * i, b * f - c * e,
    f * g - d * i, a * i - c * g, c * d - a * f,
    d * h - e * g, b * g - a * h, a * e - b * d,
  ]; // prettier-ignore
  return out.map((v) => v / out[8]!);
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

/** Where the whole picture lies on a stage. `zoom` 0 fits it; else screen px per picture px. */
export function placed(
  stage: { width: number; height: number },
  plane: { width: number; height: number },
  zoom: number,
  centre: Spot,
  margin = 20,
): Frame {
  if (zoom === 0) {
    const scale = Math.min(
      (stage.width - 2 * margin) / plane.width,
      (stage.height - 2 * margin) / plane.height,
      1,
    );
    const width = Math.max(1, Math.round(plane.width * scale));
    const height = Math.max(1, Math.round(plane.height * scale));
    return {
      width,
      height,
      left: Math.round((stage.width - width) / 2),
      top: Math.round((stage.height - height) / 2),
    };
  }
  const width = plane.width * zoom;
  const height = plane.height * zoom;
  const hold = (c: number, size: number, room: number) =>
    size <= room
      ? Math.round((room - size) / 2)
      : Math.round(Math.min(0, Math.max(room - size, room / 2 - c * size)));
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
  if (next <= fitted * 1.001) return 0;
  const stay = STAYS.find((s) => (before < s && next >= s) || (before > s && next <= s));
  return stay && stay > fitted ? stay : Math.min(next, Math.max(LARGEST, fitted));
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

/** The visible part in fractions of the picture, on whole screen px. */
export function visible(stage: { width: number; height: number }, frame: Frame): Region {
  const x0 = Math.max(0, -frame.left) / frame.width;
  const y0 = Math.max(0, -frame.top) / frame.height;
  const x1 = Math.min(stage.width - frame.left, frame.width) / frame.width;
  const y1 = Math.min(stage.height - frame.top, frame.height) / frame.height;
  return [x0, y0, Math.max(x1, x0), Math.max(y1, y0)];
}
