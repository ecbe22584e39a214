/** Where things are: source coordinates ↔ fractions of the developed picture ↔ the stage. */

export interface Spot {
  x: number;
  y: number;
}
export type Region = [number, number, number, number];

/** The affine map the server gives, with the developed size it belongs to. */
export class Plane {
  constructor(
    private readonly m: number[][],
    readonly width: number,
    readonly height: number,
  ) {}

  private get long(): number {
    return Math.max(this.width, this.height);
  }

  /** Source coordinates to fractions of the developed picture. */
  toPicture(p: Spot): Spot {
    const [a = [1, 0, 0], b = [0, 1, 0]] = this.m;
    const x = a[0]! * p.x + a[1]! * p.y + a[2]!;
    const y = b[0]! * p.x + b[1]! * p.y + b[2]!;
    return { x: (x * this.long) / this.width, y: (y * this.long) / this.height };
  }

  /** Fractions of the developed picture to source coordinates. */
  toSource(p: Spot): Spot {
    const [a = [1, 0, 0], b = [0, 1, 0]] = this.m;
    const x = (p.x * this.width) / this.long - a[2]!;
    const y = (p.y * this.height) / this.long - b[2]!;
    const d = a[0]! * b[1]! - a[1]! * b[0]!;
    return { x: (b[1]! * x - a[1]! * y) / d, y: (a[0]! * y - b[0]! * x) / d };
  }
}

export interface Frame {
  /** Stage px of the picture's left, top, width and height at the present zoom. */
  left: number;
  top: number;
  width: number;
  height: number;
}

/** Where the whole picture lies on a stage. `zoom` 0 fits it; else screen px per picture px. */
export function placed(
  stage: { width: number; height: number },
  plane: Plane,
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

/** The visible part in fractions of the picture, on whole screen px. */
export function visible(stage: { width: number; height: number }, frame: Frame): Region {
  const x0 = Math.max(0, -frame.left) / frame.width;
  const y0 = Math.max(0, -frame.top) / frame.height;
  const x1 = Math.min(stage.width - frame.left, frame.width) / frame.width;
  const y1 = Math.min(stage.height - frame.top, frame.height) / frame.height;
  return [x0, y0, Math.max(x1, x0), Math.max(y1, y0)];
}
