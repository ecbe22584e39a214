/** OKLab (Ottosson 2020) to a CSS colour, for swatches. */
export function inSrgb(l: number, a: number, b: number): string {
  const roots = [
    l + 0.3963377774 * a + 0.2158037573 * b,
    l - 0.1055613458 * a - 0.0638541728 * b,
    l - 0.0894841775 * a - 1.291485548 * b,
  ].map((v) => v ** 3) as [number, number, number];
  const [p, q, r] = roots;
  const linear = [
    4.0767416621 * p - 3.3077115913 * q + 0.2309699292 * r,
    -1.2684380046 * p + 2.6097574011 * q - 0.3413193965 * r,
    -0.0041960863 * p - 0.7034186147 * q + 1.707614701 * r,
  ];
  const bytes = linear.map((v) => {
    const x = Math.min(1, Math.max(0, v));
    return Math.round(255 * (x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055));
  });
  return `rgb(${bytes.join(" ")})`;
}
