/** The tints that tell frames of a join apart, as tokens.css names them. */
export const SEAM_TINTS = 6;
/** How strongly a tint lies over the picture, of 255. */
const TINT = 64;

export const seamTint = (n: number): string => `var(--seam-${(n % SEAM_TINTS) + 1})`;

/** A token's colour as red, green, blue, 0–255. */
export function rgbOf(
  token: string,
  style = getComputedStyle(document.documentElement),
): [number, number, number] {
  const hex = style.getPropertyValue(token).trim().replace("#", "");
  return [0, 2, 4].map((at) => parseInt(hex.slice(at, at + 2), 16)) as [number, number, number];
}

/** Numbers of members, one to a px, as a tint over the picture: the frames' colours, darker lines where they meet. `only`:
 * a member that is shown alone, or less than 0. */
export function tinted(
  numbers: Uint8ClampedArray,
  width: number,
  tints: [number, number, number][],
  only: number,
) {
  const out = new Uint8ClampedArray(numbers.length);
  for (let at = 0; at < numbers.length; at += 4) {
    const here = numbers[at]!;
    if (!here) continue;
    const seam = here !== (numbers[at + 4] ?? here) || here !== (numbers[at + 4 * width] ?? here);
    const [r, g, b] = tints[(here - 1) % tints.length]!;
    const faint = only >= 0 && here - 1 !== only;
    out.set(seam ? [255, 255, 255, 230] : [r, g, b, faint ? 0 : TINT], at);
  }
  return out;
}

/** Stops by which light clips further up than in the frame a bracket is merged on: as its shortest exposure that is in. */
export const headroom = (members: { on: boolean; ev: number }[]): number =>
  Math.max(0, ...members.filter((m) => m.on).map((m) => -m.ev));
