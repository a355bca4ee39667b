// How noisy a film is so far, in the terms in which its tiles are judged.
import { filmGridOf } from './filmGrid.ts';
import type { MemoryPlan } from './memoryPlaces.ts';
import type { RenderSettings } from './renderSettings.ts';
import { tileSamples } from './tileSamples.ts';
import type { Views } from './views.ts';

/** Brightness below which noise counts as if pixels were so bright: what neutral grade shows as near black. */
export const NOISE_FLOOR_NITS = 0.05;
/** So many pixels, spread evenly, stand for a larger film: it is judged while its threads wait. */
const MOST_PIXELS = 65_536;
const LUMINANCE = [0.2126, 0.7152, 0.0722] as const;

/**
 * Root mean square, over pixels with at least two samples, of standard error / (luminance + floor): what isQuiet in
 * engine/kernel/film.ts compares with the threshold, of the whole film instead of a tile. Null where there is no such
 * pixel, or nothing was kept to know it by.
 *
 * @param ofMix which of a film's lightings; undefined: that of the noisiest
 */
export function filmNoise(v: Views, plan: MemoryPlan, settings: RenderSettings, ofMix?: number): number | null {
  const { parts } = settings;
  if (!parts) return plan.planes.moment === undefined ? null : noiseOf(settings, v, plan, 1, bySquares(v, plan));
  if (plan.planes.partsHalf === undefined) return null;
  const mixes = ofMix === undefined ? parts.mixes : [parts.mixes[ofMix]!];
  const all = mixes.map((mix) => noiseOf(settings, v, plan, mixes.length, byHalves(v, plan, settings, mix)));
  return all.reduce<number | null>((most, x) => (x === null ? most : Math.max(most ?? 0, x)), null);
}

/** Luminance of a pixel after n samples and its standard error, nits. */
type Judged = (pixel: number, n: number) => readonly [luminance: number, error: number];

/** @param films that are judged: of each the fewer pixels */
function noiseOf(settings: RenderSettings, v: Views, plan: MemoryPlan, films: number, judge: Judged): number | null {
  const floor = settings.noise?.floorNits ?? NOISE_FLOOR_NITS;
  const samplesAt = tileSamples(v, plan, settings);
  const { widthPx, heightPx } = filmGridOf(settings);
  const step = stepThrough(widthPx * heightPx * films);
  let sum = 0;
  let pixels = 0;
  for (let pixel = 0; pixel < widthPx * heightPx; pixel += step) {
    const n = samplesAt(pixel % widthPx, Math.floor(pixel / widthPx));
    if (n < 2) continue;
    const [luminance, error] = judge(pixel, n);
    pixels++;
    if (luminance + floor > 0) sum += (error / (luminance + floor)) ** 2;
  }
  return pixels === 0 ? null : Math.sqrt(sum / pixels);
}

/** By the sums of squares of samples. */
function bySquares(v: Views, plan: MemoryPlan): Judged {
  const film = plan.film >>> 2;
  const moments = plan.planes.moment! >>> 2;
  return (pixel, n) => {
    let luminance = 0;
    let deviation = 0;
    for (let c = 0; c < 3; c++) {
      const mean = v.f32[film + pixel * 4 + c]! / n;
      const square = v.f32[moments + pixel * 3 + c]! / n;
      luminance += LUMINANCE[c]! * mean;
      deviation += LUMINANCE[c]! * Math.sqrt(Math.max(0, square - mean * mean));
    }
    return [luminance, deviation / Math.sqrt(n - 1)];
  };
}

/** By how far the means of two halves of the samples are apart, in a mix of parts. */
function byHalves(v: Views, plan: MemoryPlan, settings: RenderSettings, mix: readonly number[]): Judged {
  const { widthPx, heightPx } = filmGridOf(settings);
  const layer = widthPx * heightPx * 3;
  const whole = plan.planes.parts! >>> 2;
  const half = plan.planes.partsHalf! >>> 2;
  return (pixel, n) => {
    const even = Math.ceil(n / 2);
    let luminance = 0;
    let error = 0;
    for (let c = 0; c < 3; c++) {
      let all = 0;
      let first = 0;
      for (let part = 0; part * 3 < mix.length; part++) {
        const at = part * layer + pixel * 3 + c;
        all += mix[part * 3 + c]! * v.f32[whole + at]!;
        first += mix[part * 3 + c]! * v.f32[half + at]!;
      }
      luminance += (LUMINANCE[c]! * all) / n;
      error += (LUMINANCE[c]! * Math.abs(first / even - (all - first) / (n - even))) / 2;
    }
    return [luminance, error];
  };
}

/** Odd, so that it does not keep to the columns of a film whose width is a power of two. */
const stepThrough = (pixels: number): number => Math.ceil(pixels / MOST_PIXELS) | 1;
