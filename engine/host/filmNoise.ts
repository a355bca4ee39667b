// How noisy a film is so far, in the terms in which its tiles are judged.
import { filmGridOf } from './filmGrid.ts';
import type { MemoryPlan } from './memoryPlan.ts';
import type { RenderSettings } from './scene.ts';
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
 * pixel, or no plane of second moments.
 */
export function filmNoise(v: Views, plan: MemoryPlan, settings: RenderSettings): number | null {
  if (plan.planes.moment === undefined) return null;
  const film = plan.film >>> 2;
  const moments = plan.planes.moment >>> 2;
  const floor = settings.noise?.floorNits ?? NOISE_FLOOR_NITS;
  const samplesAt = tileSamples(v, plan, settings);
  const { widthPx, heightPx } = filmGridOf(settings);
  const step = stepThrough(widthPx * heightPx);
  let sum = 0;
  let pixels = 0;
  for (let pixel = 0; pixel < widthPx * heightPx; pixel += step) {
    const n = samplesAt(pixel % widthPx, Math.floor(pixel / widthPx));
    if (n < 2) continue;
    let luminance = 0;
    let deviation = 0;
    for (let c = 0; c < 3; c++) {
      const mean = v.f32[film + pixel * 4 + c]! / n;
      const square = v.f32[moments + pixel * 3 + c]! / n;
      luminance += LUMINANCE[c]! * mean;
      deviation += LUMINANCE[c]! * Math.sqrt(Math.max(0, square - mean * mean));
    }
    pixels++;
    if (luminance + floor > 0) sum += (deviation / (luminance + floor)) ** 2 / (n - 1);
  }
  return pixels === 0 ? null : Math.sqrt(sum / pixels);
}

/** Odd, so that it does not keep to the columns of a film whose width is a power of two. */
const stepThrough = (pixels: number): number => Math.ceil(pixels / MOST_PIXELS) | 1;
