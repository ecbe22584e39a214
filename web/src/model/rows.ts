/** Pictures in rows of equal height that fill the width; a group is kept together where it can be. */
import type { Block, Frame, Group } from "./gather";

/** Some frames side by side, of one group or of none. */
export interface Run {
  key: string;
  group: Group | null;
  frames: Frame[];
  /** False where it goes on from the row before. */
  begins: boolean;
}
export interface Row {
  key: string;
  height: number;
  runs: Run[];
}
/** A row may be so much lower or higher than is asked for. */
const LOWEST = 0.55;
const HIGHEST = 1.3;

/** Width over height, of the developed picture. */
export function ratio(frame: Frame): number {
  const size = frame.info.developed_size as [number, number] | undefined;
  const [w, h] = size ?? [Number(frame.info.width), Number(frame.info.height)];
  return w && h && w > 0 && h > 0 ? Math.min(4, Math.max(0.3, w / h)) : 1.5;
}

/** Blocks laid out over a width, px, at about a height; `gap` lies between two pictures. */
export function rows(blocks: Block[], width: number, height: number, gap: number): Row[] {
  const out: Row[] = [];
  let runs: Run[] = [];
  let sum = 0;
  let count = 0;
  const fits = (ratios: number, n: number) => (width - gap * Math.max(0, n - 1)) / ratios;
  function end(full: boolean): void {
    if (!runs.length) return;
    const filling = fits(sum, count);
    const tall = full ? Math.min(filling, height * HIGHEST) : Math.min(filling, height);
    out.push({ key: runs[0]!.key + runs[0]!.frames[0]!.id, height: Math.max(1, tall), runs });
    runs = [];
    sum = count = 0;
  }
  for (const block of blocks) {
    const ratios = block.frames.map(ratio);
    const all = ratios.reduce((a, b) => a + b, 0);
    // a group that does not go into what is left of the row begins the next one
    const room = fits(sum + all, count + ratios.length);
    // unless that left it half empty
    const low = sum * height < width / 2 ? LOWEST : 0.8;
    if (runs.length && block.frames.length > 1 && room < height * low) end(true);
    const whole = fits(sum + all, count + ratios.length) >= height * LOWEST;
    let begins = true;
    let run: Run | null = null;
    block.frames.forEach((frame, n) => {
      if (!run) {
        run = { key: block.key, group: block.group, frames: [], begins };
        runs.push(run);
        begins = false;
      }
      run.frames.push(frame);
      sum += ratios[n]!;
      count++;
      const last = n === block.frames.length - 1;
      if (fits(sum, count) <= height && (last || !whole || block.frames.length === 1)) {
        end(true);
        run = null;
      }
    });
  }
  end(false);
  return out;
}
