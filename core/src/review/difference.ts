// In what two pictures differ, pixel by pixel: in their light, in what a screen shows, or as an eye sees it by
// CIEDE2000 (CIE 142-2001, by the culori package; D65, 1 is about what is just noticed).
import { gradingOf, luminanceAt } from '../image/index.ts';
import { convertRgbToXyz65, convertXyz65ToLab65, differenceCiede2000 } from 'culori/fn';
import type { LayerPixels, Showing } from './show.ts';

export const DIFFERENCES = ['light', 'shown', 'perceived'] as const;
export type DifferenceKind = (typeof DIFFERENCES)[number];
export interface DifferenceAsked {
  readonly kind: DifferenceKind;
  /** How many times brighter than it is; of perceived ones white is a difference of 10 by it. */
  readonly scale: number;
  /** What is brighter in the second is brighter than grey, what is darker is darker. */
  readonly isSigned: boolean;
}
export interface DifferenceFound {
  /** r, g, b, 255 a pixel. */
  readonly pixels: Uint8ClampedArray<ArrayBuffer>;
  /** In the unit of its kind: light, codes from 0 to 1, CIEDE2000. */
  readonly sum: number;
  readonly most: number;
  /** Pixels that differ, and those that an eye would notice: more than a code of 255, or than 1. */
  readonly differing: number;
  readonly noticed: number;
}
type Graded = Extract<Showing, { kind: 'graded' }>;
const WHITE_AT = 10;
const JUST_NOTICED = 1;

/** Both of one size, of three channels at least. @param shown how each of them is */
export function differenceOf(
  a: LayerPixels,
  b: LayerPixels,
  asked: DifferenceAsked,
  shown: readonly [Graded, Graded],
): DifferenceFound {
  const measure = asked.kind === 'perceived' ? perceived(a, b, shown) : channelwise(a, b, asked.kind, shown);
  const n = a.widthPx * a.heightPx;
  const pixels = new Uint8ClampedArray(n * 4);
  const limit = asked.kind === 'perceived' ? JUST_NOTICED : 1 / 255;
  const d = [0, 0, 0];
  let [sum, most, differing, noticed] = [0, 0, 0, 0];
  for (let i = 0; i < n; i++) {
    measure(i, d);
    const size =
      asked.kind === 'perceived' ? Math.abs(d[0]!) : Math.max(Math.abs(d[0]!), Math.abs(d[1]!), Math.abs(d[2]!));
    sum += size;
    if (size > most) most = size;
    if (size > 0) differing++;
    if (size > limit) noticed++;
    putCodes(pixels, i * 4, d, asked);
  }
  return { pixels, sum, most, differing, noticed };
}

function putCodes(
  pixels: Uint8ClampedArray,
  q: number,
  d: readonly number[],
  { kind, scale, isSigned }: DifferenceAsked,
) {
  const by = kind === 'perceived' ? scale / WHITE_AT : scale;
  for (let k = 0; k < 3; k++) {
    const v = d[k]! * by;
    pixels[q + k] = 255 * (isSigned ? 0.5 + v / 2 : Math.abs(v));
  }
  pixels[q + 3] = 255;
}

type Measure = (i: number, d: number[]) => void;

function channelwise(
  a: LayerPixels,
  b: LayerPixels,
  kind: 'light' | 'shown',
  shown: readonly [Graded, Graded],
): Measure {
  if (kind === 'light')
    return (i, d) => {
      for (let k = 0; k < 3; k++) d[k] = b.values[i * b.channels + k]! - a.values[i * a.channels + k]!;
    };
  const codes = codesOfBoth(a, b, shown);
  return (i, d) => {
    const [x, y] = codes(i);
    for (let k = 0; k < 3; k++) d[k] = y[k]! - x[k]!;
  };
}

/** The same in all three: how far apart, and whether the second is brighter. */
function perceived(a: LayerPixels, b: LayerPixels, shown: readonly [Graded, Graded]): Measure {
  const codes = codesOfBoth(a, b, shown);
  const deltaE = differenceCiede2000();
  return (i, d) => {
    const [x, y] = codes(i);
    if (x[0] === y[0] && x[1] === y[1] && x[2] === y[2]) {
      d.fill(0);
      return;
    }
    const sign = luminanceAt(y, 0) < luminanceAt(x, 0) ? -1 : 1;
    d.fill(sign * deltaE(labOf(x), labOf(y)));
  };
}
/** @param code r, g, b of sRGB, 0 … 1 */
export function labOf([r, g, b]: readonly number[]) {
  return convertXyz65ToLab65(convertRgbToXyz65({ r: r!, g: g!, b: b! }));
}

/** What a screen shows of both, in codes of 255 as it shows them. */
function codesOfBoth(a: LayerPixels, b: LayerPixels, [showA, showB]: readonly [Graded, Graded]) {
  const [gradeA, gradeB] = [gradingOf(showA.grade, showA.lut), gradingOf(showB.grade, showB.lut)];
  const [x, y] = [
    [0, 0, 0],
    [0, 0, 0],
  ];
  const rounded = (codes: number[]) => {
    for (let k = 0; k < 3; k++) codes[k] = Math.round(codes[k]! * 255) / 255;
  };
  return (i: number): readonly [number[], number[]] => {
    gradeA(a.values, i * a.channels, x!);
    gradeB(b.values, i * b.channels, y!);
    rounded(x!);
    rounded(y!);
    return [x!, y!];
  };
}
