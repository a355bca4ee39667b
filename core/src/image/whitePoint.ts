// Colours of glowing bodies, and pictures seen as if such a light were white.
// Planckian locus: Kim et al., US 7,024,034 (2006): cubic in 1/T, 1667–25,000 K. Chromatic adaptation: Bradford
// (ICC.1:2010, annex E). Primaries: Rec. ITU-R BT.709.
import { type Rows, type Triple, apply, times } from './matrices.ts';

const XYZ_OF_RGB: Rows = [
  [0.4123908, 0.3575843, 0.1804808],
  [0.212639, 0.7151687, 0.0721923],
  [0.0193308, 0.1191948, 0.9505322],
];
const RGB_OF_XYZ: Rows = [
  [3.2409699, -1.5373832, -0.4986108],
  [-0.9692436, 1.8759675, 0.0415551],
  [0.0556301, -0.203977, 1.0569715],
];
const BRADFORD: Rows = [
  [0.8951, 0.2664, -0.1614],
  [-0.7502, 1.7135, 0.0367],
  [0.0389, -0.0685, 1.0296],
];
const BRADFORD_BACK: Rows = [
  [0.9869929, -0.1470543, 0.1599627],
  [0.4323053, 0.5183603, 0.0492912],
  [-0.0085287, 0.0400428, 0.9684867],
];
/** A light of this temperature is white as it is. */
const NEUTRAL_KELVIN = 6500;

/** CIE 1931 chromaticity of a black body. */
export function planckXy(kelvin: number): readonly [number, number] {
  const t = 1000 / Math.min(25_000, Math.max(1667, kelvin));
  const x =
    kelvin <= 4000
      ? -0.2661239 * t ** 3 - 0.234358 * t ** 2 + 0.8776956 * t + 0.17991
      : -3.0258469 * t ** 3 + 2.1070379 * t ** 2 + 0.2226347 * t + 0.24039;
  if (kelvin <= 2222) return [x, -1.1063814 * x ** 3 - 1.3481102 * x ** 2 + 2.18555832 * x - 0.20219683];
  if (kelvin <= 4000) return [x, -0.9549476 * x ** 3 - 1.37418593 * x ** 2 + 2.09137015 * x - 0.16748867];
  return [x, 3.081758 * x ** 3 - 5.8733867 * x ** 2 + 3.75112997 * x - 0.37001483];
}
/** XYZ of luminance 1. tint: −100 … 100, along the isotherm in CIE 1960 u, v; up is towards green. */
function whiteXyz(kelvin: number, tint: number): Triple {
  const uv = ([x, y]: readonly [number, number]) =>
    [(4 * x) / (-2 * x + 12 * y + 3), (6 * y) / (-2 * x + 12 * y + 3)] as const;
  const [u, v] = uv(planckXy(kelvin));
  const [u2, v2] = uv(planckXy(kelvin * 1.01));
  const long = Math.hypot(u2 - u, v2 - v) || 1;
  // across the locus; 100 is a distance of 0.05
  const step = tint * 0.0005;
  const su = u + ((v2 - v) / long) * step;
  const sv = v - ((u2 - u) / long) * step;
  const d = 2 * su - 8 * sv + 4;
  const x = (3 * su) / d;
  const y = (2 * sv) / d;
  return [x / y, 1, (1 - x - y) / y];
}

/**
 * What a light's colour is multiplied by at a temperature: luminance 1, white at 6500 K. Nothing negative: what lies
 * outside the primaries is cut.
 */
export function kelvinColor(kelvin: number): Triple {
  if (kelvin === NEUTRAL_KELVIN) return [1, 1, 1];
  const white = apply(RGB_OF_XYZ, whiteXyz(NEUTRAL_KELVIN, 0));
  const own = apply(RGB_OF_XYZ, whiteXyz(kelvin, 0));
  const c = own.map((v, i) => Math.max(0, v / white[i]!)) as unknown as Triple;
  const y = 0.212639 * c[0] + 0.7151687 * c[1] + 0.0721923 * c[2];
  return [c[0] / y, c[1] / y, c[2] / y];
}

/** Rows of the matrix on XYZ that makes what is white by the first white by the second. */
export function adapted(from: Triple, to: Triple): Rows {
  const a = apply(BRADFORD, from);
  const b = apply(BRADFORD, to);
  const scaled: Rows = [
    [b[0] / a[0], 0, 0],
    [0, b[1] / a[1], 0],
    [0, 0, b[2] / a[2]],
  ];
  return times(BRADFORD_BACK, times(scaled, BRADFORD));
}
/** Linear Rec. 709 of XYZ whose white is D65. Not cut. */
export const rgbOfXyz = (xyz: Triple): Triple => apply(RGB_OF_XYZ, xyz);
const RGB_OF_EQUAL_ENERGY = times(RGB_OF_XYZ, adapted([1, 1, 1], apply(XYZ_OF_RGB, [1, 1, 1])));
/** Linear Rec. 709 of XYZ whose white is of equal energy, as Radiance pictures have it. Not cut. */
export const rgbOfEqualEnergyXyz = (xyz: Triple): Triple => apply(RGB_OF_EQUAL_ENERGY, xyz);

/**
 * Rows of the matrix on linear RGB under which light of that temperature is white. Undefined where it changes nothing.
 */
export function whiteBalance(kelvin: number, tint: number): Rows | undefined {
  if (kelvin === NEUTRAL_KELVIN && tint === 0) return undefined;
  const toNeutral = adapted(whiteXyz(kelvin, tint), whiteXyz(NEUTRAL_KELVIN, 0));
  return times(RGB_OF_XYZ, times(toNeutral, XYZ_OF_RGB));
}
