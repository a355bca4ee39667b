// What a picture has lost, at most, with what is left out: added up while it was rendered (kernel/leftOut.ts).
import { luminanceAt } from '@variscen/core/image';
import type { Evidence } from './evidence.ts';
import type { Picture } from './film.ts';

/** Floats a pixel of the plane. */
const LIGHT = 0;
const THROUGHPUT = 1;
const MOST = 2;
const FLOATS = 4;

/** Pixels of which more than this share is in doubt are counted. */
export const DOUBTED_SHARE = 0.01;
/** Darker pixels than this share of the picture's mean are judged as if they were as bright. */
const FLOOR_SHARE = 0.05;
/** So many objects are named. */
const NAMED = 20;

/** How bright what is not known is taken to be where a pixel names what it passed: as the brightest that is known. */
export const likelyNits = (all: readonly { readonly nits?: number | undefined }[]): number =>
  all.reduce((most, { nits = 0 }) => Math.max(most, nits), LIKELY_NITS);
const LIKELY_NITS = 1;

export interface LeftOutReport {
  /** Of all the picture's light: the whole scene's picture differs by no more, but for noise. */
  readonly atMostShare: number;
  readonly pixels: number;
  /** Pixels that may differ by more than DOUBTED_SHARE. */
  readonly doubtedPixels: number;
  /** Those by which most of it came, the worst first, with their share of it, 0…1. */
  readonly most: readonly { readonly object: string; readonly share: number }[];
}

/** Mean luminance of a picture, nits. */
export function meanNits({ rgba, width, height }: Picture): number {
  let sum = 0;
  for (let i = 0; i < rgba.length; i += 4) sum += luminanceAt(rgba, i);
  return sum / (width * height);
}

/** How much each pixel may differ, in nits; and by which object most of it came: its place in the list, or −1. */
export function doubtOf(picture: Picture): { readonly nits: Float32Array; readonly object: Int32Array } | undefined {
  const plane = picture.planes.leftOut;
  if (!plane) return undefined;
  const mean = meanNits(picture);
  const pixels = picture.width * picture.height;
  const nits = new Float32Array(pixels);
  const object = new Int32Array(pixels);
  const numbers = new Int32Array(plane.buffer, plane.byteOffset, plane.length);
  for (let i = 0; i < pixels; i++) {
    nits[i] = plane[i * FLOATS + LIGHT]! + plane[i * FLOATS + THROUGHPUT]! * mean;
    object[i] = nits[i]! > 0 ? numbers[i * FLOATS + MOST]! - 1 : -1;
  }
  return { nits, object };
}

/** @param names of the objects left out, as the engine was given them. Undefined where none were asked about */
export function leftOutReport(picture: Picture, names: readonly string[]): LeftOutReport | undefined {
  const doubt = doubtOf(picture);
  if (!doubt || !names.length) return undefined;
  const mean = meanNits(picture);
  const pixels = doubt.nits.length;
  const byName = new Map<string, number>();
  let sum = 0;
  let doubtedPixels = 0;
  for (let i = 0; i < pixels; i++) {
    const own = luminanceAt(picture.rgba, i * 4);
    const nits = doubt.nits[i]!;
    sum += nits;
    if (nits > DOUBTED_SHARE * Math.max(own, FLOOR_SHARE * mean)) doubtedPixels++;
    const name = names[doubt.object[i]!];
    if (name !== undefined) byName.set(name, (byName.get(name) ?? 0) + nits);
  }
  const most = [...byName]
    .sort(([a, x], [b, y]) => y - x || (a < b ? -1 : 1))
    .slice(0, NAMED)
    .map(([object, nits]) => ({ object, share: nits / sum }));
  const ofBlack = sum > 0 ? 1 : 0;
  return { atMostShare: mean > 0 ? sum / (mean * pixels) : ofBlack, pixels, doubtedPixels, most };
}

/**
 * How bright an object is where rays of the whole scene met it, nits; no less than the picture's mean: what was met
 * seldom may be as bright as anything.
 * @param pictureNits mean luminance of the picture that the evidence is of
 */
export function brightnessOf(e: Evidence, pictureNits: number): number {
  const met = e.seen + e.reflected + e.refracted + e.bounced;
  return met > 0 ? Math.max(pictureNits, e.brought / met) : pictureNits;
}
