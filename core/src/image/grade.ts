// From linear light to what a screen shows. Input: scene-linear Rec.709; output: sRGB codes.
// Order: exposure, white balance, ASC CDL (slope, offset, power; on linear light), contrast about middle grey (0.18),
// saturation about Rec.709 luminance (which is the CDL's), highlight rolloff, sRGB transfer (IEC 61966-2-1), and on the
// codes the LUT by its strength.
import { type ImportedLut, type Lut, lookUp } from './lut.ts';
import { RisingBytes } from './risingBytes.ts';
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
  /**
   * Share of all light that is scattered, 0 … 1, and how far: standard deviation as a share of the picture's height.
   */
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

/** Linear light as graded, before the screen's curve: r, g, b at `from` of a film become those in out[0 … 2]. */
function lightOf(g: Grade): (film: ArrayLike<number>, from: number, out: Float64Array | number[]) => void {
  const gain = 2 ** g.exposureEv;
  const balance = whiteBalance(g.whiteKelvin, g.whiteTint);
  const { slope, offset, power, contrast, saturation } = g;
  const cdl = [...slope, ...power].some((x) => x !== 1) || offset.some((x) => x !== 0);
  return (film, from, c) => {
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
    if (saturation === 1) return;
    const y = 0.2126 * c[0]! + 0.7152 * c[1]! + 0.0722 * c[2]!;
    for (let k = 0; k < 3; k++) c[k] = Math.max(0, c[k]! * saturation + y * (1 - saturation));
  };
}
/** The screen's code of graded light, 0 … 1: never less of more light. */
const codeOf = (light: number, rolloff: number): number => encodeSrgb(Math.min(1, rollOff(light, rolloff)));
const usedLut = (g: Grade, lut: Lut | undefined): Lut | undefined => {
  if (!g.lut || g.lutStrength === 0) return undefined;
  if (!lut) throw new RangeError(`The LUT “${g.lut.name}” is missing.`);
  return lut;
};

/**
 * A grade made ready: linear RGB at `from` of a film becomes codes 0 … 1 in out[0 … 2]. @throws RangeError where the
 * grade names a LUT that is not given
 */
export function gradingOf(
  g: Grade,
  lut?: Lut,
): (film: ArrayLike<number>, from: number, out: Float64Array | number[]) => void {
  const light = lightOf(g);
  const table = usedLut(g, lut);
  const looked = [0, 0, 0];
  return (film, from, out) => {
    light(film, from, out);
    for (let k = 0; k < 3; k++) out[k] = codeOf(out[k]!, g.rolloff);
    if (table) {
      lookUp(table, out[0]!, out[1]!, out[2]!, looked);
      for (let k = 0; k < 3; k++) out[k] = Math.min(1, Math.max(0, out[k]! + (looked[k]! - out[k]!) * g.lutStrength));
    }
  };
}

/** As gradingOf, to the bytes at `to`, to the same ones. Powers, most of what a grade takes, are seldom worked out. */
export function bytesOf(
  g: Grade,
  lut?: Lut,
): (film: ArrayLike<number>, from: number, bytes: Uint8Array | Uint8ClampedArray | Uint16Array, to: number) => void {
  const c = [0, 0, 0];
  if (usedLut(g, lut)) {
    const graded = gradingOf(g, lut);
    return (film, from, bytes, to) => {
      graded(film, from, c);
      for (let k = 0; k < 3; k++) bytes[to + k] = Math.round(c[k]! * 255);
    };
  }
  const light = lightOf(g);
  const screen = byteTable(g.rolloff);
  return (film, from, bytes, to) => {
    light(film, from, c);
    for (let k = 0; k < 3; k++) bytes[to + k] = screen.byteOf(c[k]!);
  };
}
/** The last that was asked for: parts of one picture are shown one after another. */
let lastTable: { readonly rolloff: number; readonly table: RisingBytes } | undefined;
function byteTable(rolloff: number): RisingBytes {
  if (lastTable?.rolloff !== rolloff)
    lastTable = { rolloff, table: new RisingBytes((light) => Math.round(codeOf(light, rolloff) * 255)) };
  return lastTable.table;
}

/** Whether each channel is shown by itself: then a table of its values is as good as working each out. */
export const isByChannel = ({ whiteKelvin, whiteTint, saturation, lut, lutStrength }: Grade): boolean =>
  !whiteBalance(whiteKelvin, whiteTint) && saturation === 1 && !(lut && lutStrength > 0);

/** Film means (r, g, b, coverage per pixel) to RGB bytes. */
export function toDisplay(film: Float32Array, grade: Grade, lut?: Lut): Uint8Array {
  const pixels = film.length / 4;
  const out = new Uint8Array(pixels * 3);
  const shown = bytesOf(grade, lut);
  for (let i = 0; i < pixels; i++) shown(film, i * 4, out, i * 3);
  return out;
}
/** As toDisplay, to r, g, b, 255 a pixel. */
export function toScreen(film: Float32Array, grade: Grade, lut?: Lut): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(film.length);
  const shown = bytesOf(grade, lut);
  for (let i = 0; i < film.length; i += 4) {
    shown(film, i, out, i);
    out[i + 3] = 255;
  }
  return out;
}
/** As toDisplay, to codes of 16 bits. */
export function toDisplay16(film: Float32Array, grade: Grade, lut?: Lut): Uint16Array {
  const pixels = film.length / 4;
  const out = new Uint16Array(pixels * 3);
  const code = [0, 0, 0];
  const graded = gradingOf(grade, lut);
  for (let i = 0; i < pixels; i++) {
    graded(film, i * 4, code);
    for (let k = 0; k < 3; k++) out[i * 3 + k] = Math.round(code[k]! * 65_535);
  }
  return out;
}
