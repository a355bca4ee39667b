// What a lens does to a picture's light before it is graded.
// Bloom: (1 − b) L + b (G * L). A share b of all light is scattered around where it falls; none is lost. G is a
// Gaussian whose standard deviation is a share of the picture's height. It is worked out on the picture made small
// enough for one tile, so that a picture has the same bloom at every size at which it is looked at; beyond its edges
// the picture goes on as at them.
// Vignette: L / (1 + (v r)²)², the cos⁴ law of natural vignetting: r is the distance from the middle, 1 in the corners,
// v the tangent of the angle at which light falls there.
import type { Grade } from './grade.ts';
import { type PictureSize, levelsOf } from './pyramid/index.ts';

export type LensGrade = Pick<Grade, 'vignette' | 'bloom' | 'bloomSize'>;
export const hasLens = ({ vignette, bloom }: LensGrade): boolean => vignette > 0 || bloom > 0;

/** Row by row, so many values a pixel; red, green and blue are the first three. */
export interface LightPixels extends PictureSize {
  readonly channels: number;
  readonly values: Float32Array;
}
/** A small picture of light that is spread: r, g, b a pixel. */
export interface Glow extends PictureSize {
  readonly light: Float32Array;
}
/** Where some pixels are in their whole picture, whose size is at the same scale. */
export interface Place extends PictureSize {
  readonly left: number;
  readonly top: number;
}

const REACH = 3; // standard deviations
/** What is brighter, or no number, is as bright as the brightest half. */
const BRIGHTEST = 65_504;
const finite = (x: number): number => (x > 0 ? Math.min(x, BRIGHTEST) : 0);

/** A picture as small as its smallest level is (see pyramid/levels): means of squares of pixels. */
export function smallest({ widthPx, heightPx, channels, values }: LightPixels): LightPixels {
  const levels = levelsOf({ widthPx, heightPx });
  const size = levels.at(-1)!;
  const by = 2 ** (levels.length - 1);
  const sums = new Float64Array(size.widthPx * size.heightPx * 3);
  const counts = new Uint32Array(size.widthPx * size.heightPx);
  for (let y = 0; y < heightPx; y++)
    for (let x = 0; x < widthPx; x++) {
      const to = Math.floor(y / by) * size.widthPx + Math.floor(x / by);
      const from = (y * widthPx + x) * channels;
      for (let k = 0; k < 3; k++) sums[to * 3 + k]! += finite(values[from + k]!);
      counts[to]!++;
    }
  const means = Float32Array.from(sums, (s, i) => s / counts[Math.floor(i / 3)]!);
  return { widthPx: size.widthPx, heightPx: size.heightPx, channels: 3, values: means };
}

/** @param small the whole picture at its smallest */
export function glowOf(small: LightPixels, bloomSize: number): Glow {
  const { widthPx, heightPx, channels, values } = small;
  const light = new Float32Array(widthPx * heightPx * 3);
  for (let i = 0; i < widthPx * heightPx; i++)
    for (let k = 0; k < 3; k++) light[i * 3 + k] = finite(values[i * channels + k]!);
  const weights = gaussian(bloomSize * heightPx);
  const along = spread(light, weights, widthPx, heightPx, 3, widthPx * 3);
  return { widthPx, heightPx, light: spread(along, weights, heightPx, widthPx, widthPx * 3, 3) };
}
function gaussian(deviation: number): Float64Array {
  const reach = Math.ceil(REACH * deviation);
  const weights = Float64Array.from({ length: reach * 2 + 1 }, (_, i) =>
    deviation > 0 ? Math.exp(-((i - reach) ** 2) / (2 * deviation ** 2)) : 1,
  );
  const sum = weights.reduce((a, b) => a + b, 0);
  return weights.map((w) => w / sum);
}
/** Along lines of `length` pixels `step` apart, `lines` of them `next` apart. */
function spread(
  light: Float32Array,
  weights: Float64Array,
  length: number,
  lines: number,
  step: number,
  next: number,
): Float32Array {
  const out = new Float32Array(light.length);
  const reach = (weights.length - 1) / 2;
  for (let line = 0; line < lines; line++)
    for (let at = 0; at < length; at++) {
      let r = 0;
      let g = 0;
      let b = 0;
      for (let i = 0; i < weights.length; i++) {
        const from = line * next + Math.min(length - 1, Math.max(0, at + i - reach)) * step;
        const weight = weights[i]!;
        r += weight * light[from]!;
        g += weight * light[from + 1]!;
        b += weight * light[from + 2]!;
      }
      const to = line * next + at * step;
      out[to] = r;
      out[to + 1] = g;
      out[to + 2] = b;
    }
  return out;
}

/**
 * Made ready for a picture: changes r, g, b at `from` of its light, given the pixel's middle in shares of its width and
 * height. @param glow where there is bloom
 */
export function lensOf(
  { vignette, bloom }: LensGrade,
  { widthPx, heightPx }: PictureSize,
  glow: Glow | undefined,
): (light: Float32Array | number[], from: number, u: number, v: number) => void {
  const diagonal = widthPx ** 2 + heightPx ** 2;
  const spread = [0, 0, 0];
  return (light, from, u, v) => {
    if (bloom > 0 && glow) {
      glowAt(glow, u, v, spread);
      for (let k = 0; k < 3; k++) light[from + k]! += bloom * (spread[k]! - light[from + k]!);
    }
    if (vignette > 0) {
      const r2 = (((2 * u - 1) * widthPx) ** 2 + ((2 * v - 1) * heightPx) ** 2) / diagonal;
      const by = (1 + vignette ** 2 * r2) ** -2;
      for (let k = 0; k < 3; k++) light[from + k]! *= by;
    }
  };
}
function glowAt({ widthPx, heightPx, light }: Glow, u: number, v: number, out: number[]): void {
  const x = Math.min(widthPx - 1, Math.max(0, u * widthPx - 0.5));
  const y = Math.min(heightPx - 1, Math.max(0, v * heightPx - 0.5));
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const fx = x - x0;
  const fy = y - y0;
  const here = (y0 * widthPx + x0) * 3;
  const right = x0 + 1 < widthPx ? 3 : 0;
  const down = y0 + 1 < heightPx ? widthPx * 3 : 0;
  for (let k = 0; k < 3; k++) {
    const at = here + k;
    const above = light[at]! + fx * (light[at + right]! - light[at]!);
    const below = light[at + down]! + fx * (light[at + down + right]! - light[at + down]!);
    out[k] = above + fy * (below - above);
  }
}

/**
 * Pixels as they come through the lens; the same ones where it does nothing to them.
 * @param glow of the whole picture
 */
export function throughLens(pixels: LightPixels, place: Place, grade: LensGrade, glow: Glow | undefined): LightPixels {
  if (!hasLens(grade) || pixels.channels < 3) return pixels;
  const values = pixels.values.slice();
  const lens = lensOf(grade, place, glow);
  for (let y = 0; y < pixels.heightPx; y++) {
    const v = (place.top + y + 0.5) / place.heightPx;
    for (let x = 0; x < pixels.widthPx; x++)
      lens(values, (y * pixels.widthPx + x) * pixels.channels, (place.left + x + 0.5) / place.widthPx, v);
  }
  return { ...pixels, values };
}

/** A whole film (r, g, b, coverage a pixel) as it comes through the lens. */
export function lensed(film: Float32Array, { widthPx, heightPx }: PictureSize, grade: LensGrade): Float32Array {
  if (!hasLens(grade)) return film;
  const pixels = { widthPx, heightPx, channels: 4, values: film };
  const glow = grade.bloom > 0 ? glowOf(smallest(pixels), grade.bloomSize) : undefined;
  return throughLens(pixels, { left: 0, top: 0, widthPx, heightPx }, grade, glow).values;
}
