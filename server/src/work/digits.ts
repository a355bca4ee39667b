/** So many digits are said of what was measured: more would be noise. */
const DIGITS = 4;
export const rounded = (x: number): number => Number(x.toPrecision(DIGITS));
