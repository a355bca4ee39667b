// A sky of three colours: overhead, at the horizon and below it; and such a sky as a picture of a real place suggests
// it.
import type { Rgb } from '../scene/vectors.ts';

export interface GradientSky {
  /** Linear, 0…1: of the sky's strength. */
  readonly zenith: Rgb;
  readonly horizon: Rgb;
  readonly ground: Rgb;
}

const PREFIX = 'gradient';
/** How a sky is called by what it is made from; the same name, the same sky. */
export const gradientName = ({ zenith, horizon, ground }: GradientSky): string =>
  [PREFIX, ...zenith, ...horizon, ...ground].join(' ');
export function parseGradient(name: string): GradientSky | undefined {
  const [prefix, ...words] = name.split(' ');
  const n = words.map(Number);
  if (prefix !== PREFIX || n.length !== 9 || !n.every((x, i) => words[i] !== '' && Number.isFinite(x)))
    return undefined;
  return { zenith: [n[0]!, n[1]!, n[2]!], horizon: [n[3]!, n[4]!, n[5]!], ground: [n[6]!, n[7]!, n[8]!] };
}

/** How much of the horizon's colour is seen at so high a direction. @param up 0…1, its height on the unit sphere */
export const horizonShare = (up: number): number => (1 - up) ** 2.5;
/** The same below the horizon, up −1…0, and how bright the horizon is there. */
export const hazeBelow = (up: number): number => Math.max(0, 1 + up * 8);
export const HORIZON_BELOW = 0.6;

export interface EstimatedSky extends GradientSky {
  /** Nits of what is 1 in its colours. */
  readonly strength: number;
}
/** How strongly what is not seen is drawn to the mean of what is, to each pixel of the plate. */
const DRAWN = 0.01;

/**
 * The three colours that come nearest to what a plate shows above and below its horizon. Walls and trees above it count
 * as sky: light comes from there. What is clipped in the plate is taken for no brighter than that.
 * @param light linear r, g, b of each pixel, 1 is white
 * @param up of each pixel's direction, −1…1
 * @returns undefined where all of it is black
 */
export function skyFromPlate(light: ArrayLike<number>, up: ArrayLike<number>): EstimatedSky | undefined {
  const above: number[] = [];
  const below: number[] = [];
  for (let i = 0; i < up.length; i++) (up[i]! >= 0 ? above : below).push(i);
  const mean = (pixels: readonly number[], c: number) =>
    pixels.reduce((sum, i) => sum + light[i * 3 + c]!, 0) / pixels.length;
  const all = [...above, ...below];
  const colors = [0, 1, 2].map((c) => {
    const sky = above.length
      ? fitted(above, light, up, c, mean(above, c))
      : { zenith: mean(all, c), horizon: mean(all, c) };
    return { ...sky, ground: below.length ? mean(below, c) : sky.horizon * HORIZON_BELOW };
  });
  const strength = Math.max(...colors.flatMap(({ zenith, horizon, ground }) => [zenith, horizon, ground]));
  if (!(strength > 0)) return undefined;
  const color = (of: 'zenith' | 'horizon' | 'ground') => colors.map((c) => c[of] / strength) as unknown as Rgb;
  return { zenith: color('zenith'), horizon: color('horizon'), ground: color('ground'), strength };
}

/** Least squares, drawn to the mean. */
function fitted(pixels: readonly number[], light: ArrayLike<number>, up: ArrayLike<number>, c: number, mean: number) {
  const drawn = DRAWN * pixels.length;
  let zz = drawn;
  let zh = 0;
  let hh = drawn;
  let z = drawn * mean;
  let h = drawn * mean;
  for (const i of pixels) {
    const k = horizonShare(up[i]!);
    const value = light[i * 3 + c]!;
    zz += (1 - k) ** 2;
    zh += (1 - k) * k;
    hh += k ** 2;
    z += (1 - k) * value;
    h += k * value;
  }
  const det = zz * hh - zh * zh;
  return { zenith: Math.max(0, (z * hh - h * zh) / det), horizon: Math.max(0, (h * zz - z * zh) / det) };
}
