// Triples and 3 × 3 matrices by rows, for colours.
export type Triple = readonly [number, number, number];
export type Rows = readonly [Triple, Triple, Triple];

export const apply = (m: Rows, [x, y, z]: Triple): Triple => [
  m[0][0] * x + m[0][1] * y + m[0][2] * z,
  m[1][0] * x + m[1][1] * y + m[1][2] * z,
  m[2][0] * x + m[2][1] * y + m[2][2] * z,
];
/** The matrix that applies b, then a. */
export const times = (a: Rows, b: Rows): Rows => {
  const column = (k: 0 | 1 | 2) => apply(a, [b[0][k], b[1][k], b[2][k]]);
  const [x, y, z] = [column(0), column(1), column(2)];
  return [
    [x[0], y[0], z[0]],
    [x[1], y[1], z[1]],
    [x[2], y[2], z[2]],
  ];
};
/** By cofactors. Not finite where there is none. */
export function inverse([[a, b, c], [d, e, f], [g, h, i]]: Rows): Rows {
  const [first, second, third] = [e * i - f * h, f * g - d * i, d * h - e * g];
  const k = 1 / (a * first + b * second + c * third);
  return [
    [first * k, (c * h - b * i) * k, (b * f - c * e) * k],
    [second * k, (a * i - c * g) * k, (c * d - a * f) * k],
    [third * k, (b * g - a * h) * k, (a * e - b * d) * k],
  ];
}
