// Pictures mixed from light that was kept apart: light adds up, so a picture in another lighting is the sum of its
// parts, each as strong as it is there. A film that was mixed is as one that was traced in that lighting: its planes of
// light, its light groups and its second moments too, so that it is denoised, judged and written as any other.
import { filmGridOf } from './filmGrid.ts';
import type { MemoryPlan } from './memoryPlaces.ts';
import type { LightParts, PlaneName, RenderSettings } from './renderSettings.ts';
import { tileSamples } from './tileSamples.ts';
import type { Views } from './views.ts';

/** A plane of parts in memory, and how much a mix has of each. */
class Mix {
  private readonly pixels: number;
  private readonly shares: readonly number[];
  constructor(
    private readonly v: Views,
    private readonly plan: MemoryPlan,
    settings: RenderSettings & { readonly parts: LightParts },
    mix: number,
  ) {
    const { widthPx, heightPx } = filmGridOf(settings);
    this.pixels = widthPx * heightPx;
    this.shares = settings.parts.mixes[mix]!;
  }

  /** Sums of r, g, b a pixel, of all parts or of some. */
  sums(name: PlaneName, isWanted: (part: number) => boolean = () => true): Float32Array {
    const { pixels, shares } = this;
    const out = new Float32Array(pixels * 3);
    const from = this.plan.planes[name]! >>> 2;
    for (let part = 0; part * 3 < shares.length; part++) {
      const [r, g, b] = shares.slice(part * 3, part * 3 + 3) as [number, number, number];
      if (!isWanted(part) || Math.max(r, g, b) === 0) continue;
      const light = this.v.f32.subarray(from + part * pixels * 3, from + (part + 1) * pixels * 3);
      for (let i = 0; i < light.length; i += 3) {
        out[i]! += r * light[i]!;
        out[i + 1]! += g * light[i + 1]!;
        out[i + 2]! += b * light[i + 2]!;
      }
    }
    return out;
  }
}

type Mixed = RenderSettings & { readonly parts: LightParts };

/** Sums of r, g, b and coverage a pixel of the whole film. */
export function mixedSums(v: Views, plan: MemoryPlan, settings: Mixed, mix: number): Float32Array {
  const light = new Mix(v, plan, settings, mix).sums('parts');
  const out = v.f32.slice(plan.film >>> 2, (plan.film >>> 2) + (light.length / 3) * 4);
  putLight(out, 0, light);
  return out;
}
/** r, g, b of every pixel, beside the coverage that stands there. */
function putLight(film: Float32Array, from: number, light: Float32Array): void {
  for (let i = 0, q = from; i < light.length; i += 3, q += 4) {
    film[q] = light[i]!;
    film[q + 1] = light[i + 1]!;
    film[q + 2] = light[i + 2]!;
  }
}

/** Makes the film that of a mix. It can be made that of another afterwards; nothing can be added to it any more. */
export function mixFilm(v: Views, plan: MemoryPlan, settings: Mixed, mix: number): void {
  const of = new Mix(v, plan, settings, mix);
  const { planes } = plan;
  const put = (name: PlaneName, sums: Float32Array, layer = 0) =>
    v.f32.set(sums, (planes[name]! >>> 2) + layer * sums.length);
  const light = of.sums('parts');
  putLight(v.f32, plan.film >>> 2, light);
  const emission = planes.partsEmission === undefined ? undefined : of.sums('partsEmission');
  const direct = planes.partsDirect === undefined ? undefined : of.sums('partsDirect');
  if (planes.emission !== undefined) put('emission', emission!);
  if (planes.direct !== undefined) put('direct', direct!);
  if (planes.indirect !== undefined) put('indirect', rest(light, emission!, direct!));
  for (let group = 0; group < (settings.lightGroups ?? 0); group++) {
    const isOfGroup = (part: number) => settings.parts.of[part] === group;
    put('groups', of.sums('parts', isOfGroup), group);
    if (planes.groupsEmission !== undefined) put('groupsEmission', of.sums('partsEmission', isOfGroup), group);
  }
  if (planes.moment !== undefined) put('moment', moments(light, of.sums('partsHalf'), v, plan, settings));
}

/** Light scattered more than once. Where there is none, rounding is not taken for some. */
function rest(all: Float32Array, emission: Float32Array, direct: Float32Array): Float32Array {
  const LEAST = 1e-6;
  return all.map((x, i) => {
    const left = x - emission[i]! - direct[i]!;
    return left > x * LEAST ? left : 0;
  });
}

/**
 * Sums of squares that a film would have whose mean is as uncertain: the variance of the mean of n samples is a quarter
 * of the squared difference between the means of its halves.
 */
function moments(all: Float32Array, first: Float32Array, v: Views, plan: MemoryPlan, settings: Mixed): Float32Array {
  const { widthPx, heightPx } = filmGridOf(settings);
  const samplesAt = tileSamples(v, plan, settings);
  for (let y = 0; y < heightPx; y++)
    for (let x = 0; x < widthPx; x++) {
      const n = samplesAt(x, y);
      const even = Math.ceil(n / 2);
      const odd = n - even;
      const at = (y * widthPx + x) * 3;
      for (let i = at; i < at + 3; i++) {
        const mean = all[i]! / Math.max(1, n);
        const apart = odd ? first[i]! / even - (all[i]! - first[i]!) / odd : 0;
        all[i] = n * (mean * mean + (apart * apart * (n - 1)) / 4);
      }
    }
  return all;
}
