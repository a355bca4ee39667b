// Pictures with shadow catchers. As traced, a catcher is a surface like any other; in the finished picture the camera
// sees what is behind it, weakened by shadow, and with the light that things send there.
import { luminanceAt } from '@variscen/core/image';

/** Light on shadow catchers, r, g, b a pixel. */
export interface CaughtLight {
  /** Of the place, as it arrives. */
  readonly lit: Float32Array;
  /** Share of it that arrives: 1 where no thing takes any. */
  readonly left: Float32Array;
  /** What things send. */
  readonly sent: Float32Array;
}

/** Means over samples, as planes of a picture. */
export interface CaughtPlanes {
  readonly width: number;
  /** Of each pixel. */
  readonly samples: Float32Array;
  readonly planes: { readonly caught?: Float32Array; readonly behind?: Float32Array };
}

/**
 * Where shadow catchers are, and what light reaches them; undefined where there are none. Denoised where that is given.
 */
export function caughtLight(
  { planes: { caught, behind }, width, samples }: CaughtPlanes,
  denoised?: Float32Array,
): CaughtLight | undefined {
  if (!caught || !behind) return undefined;
  const traced = shares(caught);
  if (!denoised) return traced;
  const clean = shares(denoised);
  return { ...clean, left: explained(traced.left, clean.left, { behind, width, samples }) };
}
/** Layers lie one after another: light of the place as it arrives, as it would without things, and what things send. */
function shares(caught: Float32Array): CaughtLight {
  const floats = caught.length / 3;
  const layer = (k: number) => caught.subarray(k * floats, (k + 1) * floats);
  const lit = layer(0);
  const free = layer(1);
  return { lit, left: lit.map((x, i) => (free[i]! > 0 ? Math.min(1, x / free[i]!) : 1)), sent: layer(2) };
}

/** Of the variance that shares of light would have if each sample either arrived or did not: about what they have. */
const VARIANCE = 0.7;
/**
 * The denoised shares, as far as noise explains how they differ from those that were traced: both have most of their
 * noise in common with the light without things, so that shares are less noisy than the picture that was denoised by.
 * Judged by a pixel and its eight neighbours.
 */
function explained(
  traced: Float32Array,
  clean: Float32Array,
  { behind, width, samples }: { readonly behind: Float32Array; readonly width: number; readonly samples: Float32Array },
): Float32Array {
  const height = samples.length / width;
  const out = traced.slice();
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const pixel = y * width + x;
      if (!(behind[pixel * 4 + 3]! > 0)) continue;
      let apart = 0;
      let noise = 0;
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) {
          const near = v * width + u;
          if (!(behind[near * 4 + 3]! > 0)) continue;
          for (let i = near * 3; i < near * 3 + 3; i++) {
            apart += (clean[i]! - traced[i]!) ** 2;
            noise += Math.max(spread(traced[i]!), spread(clean[i]!)) / Math.max(1, samples[near]!);
          }
        }
      const share = apart > 0 ? Math.min(1, (VARIANCE * noise) / apart) : 1;
      for (let i = pixel * 3; i < pixel * 3 + 3; i++) out[i] = traced[i]! + share * (clean[i]! - traced[i]!);
    }
  return out;
}
const spread = (share: number): number => share * (1 - share);

/** A picture without its catchers. */
export interface Uncaught {
  /** r, g, b and coverage: of a catcher what its shadow covers. */
  readonly film: Float32Array;
  /** r, g, b a pixel: how much of what is behind all is seen there. */
  readonly open: Float32Array;
}
/** Less of a picture's light than that is rounding. */
const ROUNDING = 1e-5;
/**
 * @param film r, g, b in nits and coverage a pixel, with the light of the place as it arrives, both denoised or not
 * @param behind as the plane: means of r, g, b seen behind catchers, and how much of the pixel they are
 */
export function uncaught(film: Float32Array, { lit, left }: CaughtLight, behind: Float32Array): Uncaught {
  const out = film.slice();
  const open = new Float32Array(left.length);
  for (let i = 0; i < film.length / 4; i++) {
    const share = behind[i * 4 + 3]!;
    const bare = 1 - film[i * 4 + 3]!;
    for (let c = 0; c < 3; c++) {
      const through = left[i * 3 + c]!;
      open[i * 3 + c] = bare + share * through;
      if (!(share > 0)) continue;
      const own = film[i * 4 + c]! - lit[i * 3 + c]!;
      out[i * 4 + c] = (own > film[i * 4 + c]! * ROUNDING ? own : 0) + through * behind[i * 4 + c]!;
    }
    if (share > 0) out[i * 4 + 3] = Math.max(0, film[i * 4 + 3]! - share * luminanceAt(left, i * 3));
  }
  return { film: out, open };
}

/**
 * What a plate is multiplied with, r, g, b a pixel, and how much of the pixel catchers are; 1 where there is no shadow.
 */
export function shadowLayer({ left }: CaughtLight, behind: Float32Array): Float32Array {
  const out = new Float32Array(behind.length);
  for (let i = 0; i < behind.length / 4; i++) {
    const share = behind[i * 4 + 3]!;
    for (let c = 0; c < 3; c++) out[i * 4 + c] = 1 - share * (1 - left[i * 3 + c]!);
    out[i * 4 + 3] = share;
  }
  return out;
}
