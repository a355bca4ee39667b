// The few matrix operations that the scene model needs. Column-major 4 × 4, as in glTF.
import type { Matrix, Rgb } from './vectors.ts';

export const IDENTITY: Matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

export function multiply(a: Matrix, b: Matrix): number[] {
  const out = new Array<number>(16);
  for (let c = 0; c < 16; c += 4) {
    const x = b[c]!;
    const y = b[c + 1]!;
    const z = b[c + 2]!;
    const w = b[c + 3]!;
    // from 0 on: a sum of nothing but −0 is 0
    for (let r = 0; r < 4; r++) out[c + r] = 0 + a[r]! * x + a[4 + r]! * y + a[8 + r]! * z + a[12 + r]! * w;
  }
  return out;
}

export const transformPoint = (m: Matrix, p: Rgb): [number, number, number] => [
  m[0]! * p[0] + m[4]! * p[1] + m[8]! * p[2] + m[12]!,
  m[1]! * p[0] + m[5]! * p[1] + m[9]! * p[2] + m[13]!,
  m[2]! * p[0] + m[6]! * p[1] + m[10]! * p[2] + m[14]!,
];

/** Determinant of the upper 3 × 3: 0 or not finite where an object has no volume left. */
export const determinant = (m: Matrix): number =>
  m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) -
  m[4]! * (m[1]! * m[10]! - m[2]! * m[9]!) +
  m[8]! * (m[1]! * m[6]! - m[2]! * m[5]!);

export const normalized = (v: Rgb): [number, number, number] => {
  const l = Math.hypot(...v) || 1;
  return [v[0] / l, v[1] / l, v[2] / l];
};
export const crossed = (a: Rgb, b: Rgb): [number, number, number] => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const minus = (a: Rgb, b: Rgb): [number, number, number] => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];

/** Placed at `from`, looking along its −Z at `to`, +Y as near to up as it goes. */
export function lookAt(from: Rgb, to: Rgb, up: Rgb = [0, 1, 0]): number[] {
  const back = normalized(minus(from, to));
  let right = crossed(up, back);
  if (Math.hypot(...right) < 1e-9) right = crossed([0, 0, 1], back);
  right = normalized(right);
  const top = crossed(back, right);
  return [...right, 0, ...top, 0, ...back, 0, ...from, 1];
}

/** World matrices of nodes whose parents stand before them. */
export function worldMatrices(nodes: readonly { readonly parent: number; readonly matrix: Matrix }[]): Matrix[] {
  const world: Matrix[] = [];
  for (const n of nodes) world.push(n.parent < 0 ? n.matrix : multiply(world[n.parent]!, n.matrix));
  return world;
}

/** Of a matrix whose last row is 0 0 0 1; undefined where it has no inverse. */
export function inverted(m: Matrix): number[] | undefined {
  const d = determinant(m);
  if (!Number.isFinite(d) || Math.abs(d) < 1e-30) return undefined;
  const c = (a: number, b: number, e: number, f: number) => (m[a]! * m[b]! - m[e]! * m[f]!) / d;
  const r = [
    c(5, 10, 6, 9),
    c(2, 9, 1, 10),
    c(1, 6, 2, 5),
    0,
    c(6, 8, 4, 10),
    c(0, 10, 2, 8),
    c(2, 4, 0, 6),
    0,
    c(4, 9, 5, 8),
    c(1, 8, 0, 9),
    c(0, 5, 1, 4),
    0,
  ];
  return [...r, ...[0, 1, 2].map((k) => -(r[k]! * m[12]! + r[4 + k]! * m[13]! + r[8 + k]! * m[14]!)), 1];
}

/** How much a matrix lengthens along each of its axes. */
export const axisScales = (m: Matrix): [number, number, number] => [
  Math.hypot(m[0]!, m[1]!, m[2]!),
  Math.hypot(m[4]!, m[5]!, m[6]!),
  Math.hypot(m[8]!, m[9]!, m[10]!),
];
