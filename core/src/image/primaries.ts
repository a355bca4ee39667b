// Colour spaces by their primaries and white: CIE 1931 x, y. Conversion by XYZ (SMPTE RP 177-1993), with Bradford's
// adaptation where whites differ.
import { type Rows, type Triple, apply, inverse, times } from './matrices.ts';
import { adapted } from './whitePoint.ts';

type Xy = readonly [number, number];
export interface Primaries {
  readonly red: Xy;
  readonly green: Xy;
  readonly blue: Xy;
  readonly white: Xy;
}
const D65: Xy = [0.3127, 0.329];
/** Rec. ITU-R BT.709, which sRGB shares. */
export const REC709: Primaries = { red: [0.64, 0.33], green: [0.3, 0.6], blue: [0.15, 0.06], white: D65 };
/** SMPTE EG 432-1, with the white of D65. */
export const DISPLAY_P3: Primaries = { red: [0.68, 0.32], green: [0.265, 0.69], blue: [0.15, 0.06], white: D65 };

/** Of luminance 1. */
export const xyzOf = ([x, y]: Xy): Triple => [x / y, 1, (1 - x - y) / y];

/** Matrix that makes XYZ of linear RGB; white is 1, 1, 1 and has luminance 1. */
export function xyzOfRgb({ red, green, blue, white }: Primaries): Rows {
  const [r, g, b] = [xyzOf(red), xyzOf(green), xyzOf(blue)];
  const columns: Rows = [
    [r[0], g[0], b[0]],
    [r[1], g[1], b[1]],
    [r[2], g[2], b[2]],
  ];
  const [kr, kg, kb] = apply(inverse(columns), xyzOf(white));
  const scaled = (row: Triple): Triple => [row[0] * kr, row[1] * kg, row[2] * kb];
  return [scaled(columns[0]), scaled(columns[1]), scaled(columns[2])];
}

/** Matrix between linear RGB of two spaces; white stays white. Not cut: what the second cannot show is negative. */
export function between(from: Primaries, to: Primaries): Rows {
  const toWhite = adapted(xyzOf(from.white), xyzOf(to.white));
  return times(inverse(xyzOfRgb(to)), times(toWhite, xyzOfRgb(from)));
}
