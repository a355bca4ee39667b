// From linear light to what a screen shows. Input: scene-linear Rec.709; output: sRGB codes.
// Order: exposure, white balance, ASC CDL (slope, offset, power; on linear light), contrast about middle grey (0.18),
// saturation about Rec.709 luminance (which is the
// CDL's), highlight rolloff, sRGB transfer (IEC 61966-2-1), and on the codes the LUT by its strength.
import { type ImportedLut, type Lut, lookUp } from './lut.ts';
import { whiteBalance } from './whitePoint.ts';

type Rgb = readonly [number, number, number];
export interface Grade {
  /** Stops. */
  readonly exposureEv: number;
  /** Light of this temperature comes out white: 1700 … 25,000 K; 6500 changes nothing. */
  readonly whiteKelvin: number;
  /** −100 … 100: how green the light is that comes out white. */
  readonly whiteTint: number;
  readonly slope: Rgb;
  readonly offset: Rgb;
  readonly power: Rgb;
  readonly contrast: number;
  readonly saturation: number;
  /** 0: values above 1 are cut; 1: they are drawn in softly from 0 on. */
  readonly rolloff: number;
  readonly lut: ImportedLut | null;
  /** 0 … 1. */
  readonly lutStrength: number;
  /** What the lens does to light before it is graded (lens.ts). Tangent of the angle to a corner; 0: none. */
  readonly vignette: number;
  /** Share of all light that is scattered, 0 … 1, and how far: standard deviation as a share of the picture's height. */
  readonly bloom: number;
  readonly bloomSize: number;
}
export const NEUTRAL_GRADE: Grade = {
  exposureEv: 0,
  whiteKelvin: 6500,
  whiteTint: 0,
  slope: [1, 1, 1],
  offset: [0, 0, 0],
  power: [1, 1, 1],
  contrast: 1,
  saturation: 1,
  rolloff: 0.6,
  lut: null,
  lutStrength: 1,
  vignette: 0,
  bloom: 0,
  bloomSize: 0.02,
};

/** Linear light encoded for the screen and nothing else: what is above 1 is cut. */
export const NO_GRADE: Grade = { ...NEUTRAL_GRADE, rolloff: 0 };

const MIDDLE_GREY = 0.18;
export const encodeSrgb = (x: number): number => (x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055);
/** Light of a code that the screen's curve made: the other way of encodeSrgb. */
export const decodeSrgb = (x: number): number => (x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4);

/**
 * Highlights above the knee 1 − rolloff·0.7 approach 1 exponentially instead of being cut. Continuous in value and
 * slope at the knee; identity below.
 */
export function rollOff(x: number, rolloff: number): number {
  const knee = 1 - 0.7 * rolloff;
  return x <= knee ? x : knee + (1 - knee) * (1 - Math.exp(-(x - knee) / (1 - knee || 1e-6)));
}

/**
 * A grade made ready: linear RGB at `from` of a film becomes codes 0 … 1 in out[0 … 2]. @throws RangeError where the
 * grade names a LUT that is not given
 */
export function gradingOf(
  g: Grade,
  lut?: Lut,
): (film: ArrayLike<number>, from: number, out: Float64Array | number[]) => void {
  if (g.lut && g.lutStrength > 0 && !lut) throw new RangeError(`The LUT “${g.lut.name}” is missing.`);
  const gain = 2 ** g.exposureEv;
  const balance = whiteBalance(g.whiteKelvin, g.whiteTint);
  const { slope, offset, power, contrast, saturation, rolloff } = g;
  const cdl = [...slope, ...power].some((x) => x !== 1) || offset.some((x) => x !== 0);
  const table = g.lut && g.lutStrength > 0 ? lut : undefined;
  const looked = [0, 0, 0];
  const c = [0, 0, 0];
  return (film, from, out) => {
    for (let k = 0; k < 3; k++) c[k] = Math.max(0, film[from + k]!) * gain;
    if (balance) {
      const [r, gr, b] = c as [number, number, number];
      for (let k = 0; k < 3; k++) {
        const row = balance[k]!;
        c[k] = Math.max(0, row[0] * r + row[1] * gr + row[2] * b);
      }
    }
    if (cdl) for (let k = 0; k < 3; k++) c[k] = Math.max(0, c[k]! * slope[k]! + offset[k]!) ** power[k]!;
    if (contrast !== 1) for (let k = 0; k < 3; k++) c[k] = MIDDLE_GREY * (c[k]! / MIDDLE_GREY) ** contrast;
    const y = 0.2126 * c[0]! + 0.7152 * c[1]! + 0.0722 * c[2]!;
    for (let k = 0; k < 3; k++)
      out[k] = encodeSrgb(Math.min(1, rollOff(Math.max(0, c[k]! * saturation + y * (1 - saturation)), rolloff)));
    if (table) {
      lookUp(table, out[0]!, out[1]!, out[2]!, looked);
      for (let k = 0; k < 3; k++) out[k] = Math.min(1, Math.max(0, out[k]! + (looked[k]! - out[k]!) * g.lutStrength));
    }
  };
}

/** Whether each channel is shown by itself: then a table of its values is as good as working each out. */
export const isByChannel = ({ whiteKelvin, whiteTint, saturation, lut, lutStrength }: Grade): boolean =>
  !whiteBalance(whiteKelvin, whiteTint) && saturation === 1 && !(lut && lutStrength > 0);

/** Film means (r, g, b, coverage per pixel) to RGB bytes. */
export const toDisplay = (film: Float32Array, grade: Grade, lut?: Lut): Uint8Array =>
  codesInto(new Uint8Array((film.length / 4) * 3), 255, film, grade, lut);
/** As toDisplay, to codes of 16 bits. */
export const toDisplay16 = (film: Float32Array, grade: Grade, lut?: Lut): Uint16Array =>
  codesInto(new Uint16Array((film.length / 4) * 3), 65_535, film, grade, lut);

function codesInto<T extends Uint8Array | Uint16Array>(
  out: T,
  most: number,
  film: Float32Array,
  grade: Grade,
  lut: Lut | undefined,
): T {
  const n = film.length / 4;
  const code = [0, 0, 0];
  const graded = gradingOf(grade, lut);
  for (let i = 0; i < n; i++) {
    graded(film, i * 4, code);
    for (let k = 0; k < 3; k++) out[i * 3 + k] = Math.round(code[k]! * most);
  }
  return out;
}
