// The film as means, read out of engine memory.
import * as K from '../kernel/layout/index.ts';
import { caughtLight, uncaught } from './caught.ts';
import { cropped, filmGridOf, tilesOf } from './filmGrid.ts';
import type { MemoryPlan } from './memoryPlaces.ts';
import { mixedSums } from './mixedFilm.ts';
import { putBack } from './nearScene.ts';
import type { Vec3 } from './scene.ts';
import { PLANE_SPECS, type PlaneName, type RenderSettings, layersOf, planesOf, regionOf } from './renderSettings.ts';
import type { Views } from './views.ts';

export interface Picture {
  readonly width: number;
  readonly height: number;
  /** r, g, b in nits and coverage 0…1 a pixel. */
  readonly rgba: Float32Array;
  /**
   * Means of what was asked for, PLANE_SPECS floats a pixel; the depth, position and normals of a pixel are means over
   * its covered samples. Ids in objects and materials are as stored.
   */
  readonly planes: Partial<Readonly<Record<PlaneName, Float32Array>>>;
  /** Samples of each pixel. */
  readonly samples: Float32Array;
}

/** Planes that hold what the first hit showed: their means are over samples that hit something. */
const OF_HITS: ReadonlySet<PlaneName> = new Set(['depth', 'position', 'normal', 'geometricNormal', 'motion']);

/** A copy, to which the film owes nothing. */
export const readPicture = (v: Views, plan: MemoryPlan, settings: RenderSettings, origin: Vec3): Picture =>
  meansOf((from, floats) => v.f32.slice(from >>> 2, (from >>> 2) + floats), v, plan, settings, origin);

/**
 * Made of the film itself, where it lies: nothing can be added to it afterwards.
 * @param isAgain it was taken before, and then mixed anew: what a mix does not write is as it was made then
 */
export const takePicture = (
  v: Views,
  plan: MemoryPlan,
  settings: RenderSettings,
  origin: Vec3,
  isAgain = false,
): Picture =>
  meansOf((from, floats) => v.f32.subarray(from >>> 2, (from >>> 2) + floats), v, plan, settings, origin, isAgain);

/** Planes that are written with every mix. */
const MIXED: ReadonlySet<PlaneName> = new Set(['moment', 'emission', 'direct', 'indirect', 'groups']);
/** What mixes are made from and denoised by: no part of a picture where there are several. */
const OF_MIXES: ReadonlySet<PlaneName> = new Set([
  'parts',
  'partsHalf',
  'partsEmission',
  'partsDirect',
  'groupsEmission',
  'guideAlbedo',
  'guideNormal',
]);

/**
 * r, g, b and coverage of the film so far, without its planes and its shadow catchers; where light is kept apart, of
 * the first mix.
 */
export function readFilm(v: Views, plan: MemoryPlan, settings: RenderSettings): Float32Array {
  const samples = samplesOf(v, plan, settings);
  const film = filmGridOf(settings);
  const { parts } = settings;
  const whole = parts
    ? mixedSums(v, plan, { ...settings, parts }, 0)
    : v.f32.slice(plan.film >>> 2, (plan.film >>> 2) + film.widthPx * film.heightPx * 4);
  const rgba = cropped(whole, 4, 1, settings);
  divide(rgba, samples);
  const { caught, behind } = plan.planes;
  if (caught === undefined || behind === undefined) return rgba;
  const sums = (name: PlaneName, at: number) => {
    const layers = layersOf(name, settings);
    const floats = PLANE_SPECS[name][1];
    const plane = v.f32.slice(at >>> 2, (at >>> 2) + film.widthPx * film.heightPx * floats * layers);
    return cropped(plane, floats, layers, settings);
  };
  const planes = { caught: sums('caught', caught), behind: sums('behind', behind) };
  divideGroups(planes.caught, samples);
  divide(planes.behind, samples);
  const width = regionOf(settings).widthPx;
  return uncaught(rgba, caughtLight({ planes, width, samples })!, planes.behind).film;
}

/** The light of a group so far: r, g, b for each square of two by two pixels, as their mean; at the edges of fewer. */
export function readGroupHalved(v: Views, plan: MemoryPlan, settings: RenderSettings, group: number): Float32Array {
  const samples = samplesOf(v, plan, settings);
  const film = filmGridOf(settings);
  const { left, top, widthPx, heightPx } = regionOf(settings);
  const first = (plan.planes.groups! >>> 2) + group * film.widthPx * film.heightPx * 3;
  const across = Math.ceil(widthPx / 2);
  const out = new Float32Array(across * Math.ceil(heightPx / 2) * 3);
  for (let y = 0; y < heightPx; y++) {
    const from = first + ((y + top - film.top) * film.widthPx + left - film.left) * 3;
    const line = (y >> 1) * across;
    const rows = Math.min(2, heightPx - (y & ~1));
    for (let x = 0; x < widthPx; x++) {
      const columns = Math.min(2, widthPx - (x & ~1));
      const share = 1 / (Math.max(1, samples[y * widthPx + x]!) * rows * columns);
      const to = (line + (x >> 1)) * 3;
      for (let c = 0; c < 3; c++) out[to + c]! += v.f32[from + x * 3 + c]! * share;
    }
  }
  return out;
}
function divideGroups(groups: Float32Array, samples: Float32Array): void {
  for (let from = 0; from < groups.length; from += samples.length * 3)
    for (let i = 0; i < samples.length; i++) {
      const n = Math.max(1, samples[i]!);
      const at = from + i * 3;
      groups[at]! /= n;
      groups[at + 1]! /= n;
      groups[at + 2]! /= n;
    }
}

/** Samples of each pixel, which all pixels of a tile have in common. */
function samplesOf(v: Views, plan: MemoryPlan, settings: RenderSettings): Float32Array {
  const { left, top, widthPx: width, heightPx: height } = regionOf(settings);
  const grid = filmGridOf(settings);
  const fromLeft = left - grid.left + grid.cutLeft;
  const fromTop = top - grid.top + grid.cutTop;
  const samples = new Float32Array(width * height);
  const counts = v.i32.slice(plan.tileState >>> 2, (plan.tileState >>> 2) + tilesOf(grid));
  for (let y = 0; y < height; y++) {
    const row = Math.floor((y + fromTop) / K.TILE.HEIGHT) * grid.tilesAcross;
    for (let x = 0; x < width; x++)
      samples[y * width + x] = counts[row + Math.floor((x + fromLeft) / K.TILE.WIDTH)]! & (K.TILE.FINISHED - 1);
  }
  return samples;
}
function divide(rgba: Float32Array, samples: Float32Array): void {
  for (let i = 0; i < samples.length; i++) {
    const k = 1 / Math.max(1, samples[i]!);
    for (let c = 0; c < 4; c++) rgba[i * 4 + c]! *= k;
  }
}

function meansOf(
  read: (from: number, floats: number) => Float32Array,
  v: Views,
  plan: MemoryPlan,
  settings: RenderSettings,
  origin: Vec3,
  isAgain = false,
): Picture {
  const { widthPx: width, heightPx: height } = regionOf(settings);
  const pixels = width * height;
  const samples = samplesOf(v, plan, settings);
  const film = filmGridOf(settings);
  const taken = (from: number, floats: number, layers = 1) =>
    cropped(read(from, film.widthPx * film.heightPx * floats * layers), floats, layers, settings);
  const sums = taken(plan.film, 4);
  const covered = new Float32Array(pixels);
  // coverage is not mixed: taken before, it is a mean
  if (isAgain) for (let i = 0; i < pixels; i++) sums[i * 4 + 3]! *= Math.max(1, samples[i]!);
  for (let i = 0; i < pixels; i++) covered[i] = sums[i * 4 + 3]!;
  divide(sums, samples);
  const planes: Partial<Record<PlaneName, Float32Array>> = {};
  for (const name of planesOf(settings)) {
    const n = PLANE_SPECS[name][1];
    if (settings.parts ? OF_MIXES.has(name) : name === 'groupsEmission') continue;
    const data = taken(plan.planes[name]!, n, layersOf(name, settings));
    planes[name] = data;
    if (isAgain && !MIXED.has(name)) continue;
    if (name === 'leftOut') {
      // the third is a number, not a sum
      for (let i = 0; i < pixels; i++) for (const c of [0, 1, 3]) data[i * n + c]! /= Math.max(1, samples[i]!);
    } else if (name === 'objects' || name === 'materials')
      for (let i = 0; i < pixels; i++)
        for (let r = 0; r < K.PLANE.CRYPTO_RANKS; r++) data[i * 12 + r * 2 + 1]! /= Math.max(1, samples[i]!);
    else if (name === 'groups' || name === 'caught') divideGroups(data, samples);
    else
      for (let i = 0; i < pixels; i++) {
        const k = 1 / Math.max(1, OF_HITS.has(name) ? covered[i]! : samples[i]!);
        for (let c = 0; c < n; c++) data[i * n + c]! *= k;
      }
  }
  if (!isAgain) putBack(planes.position, covered, origin);
  return { width, height, rgba: sums, planes, samples };
}
