// Colours of OpenEXR files whose primaries are others than Rec. 709's, which everything here has.
import { type Primaries, REC709, type Rows, between } from '../image/index.ts';

/** Files write a few digits. */
const ALIKE = 0.002;

/**
 * Matrix on linear RGB; absent where nothing is to be done: they are Rec. 709's, or make no space of colours.
 * @param primaries absent: the file does not say, which means Rec. 709
 */
export function toRec709(primaries: Primaries | undefined): Rows | undefined {
  if (!primaries || isRec709(primaries)) return undefined;
  const matrix = between(primaries, REC709);
  return matrix.flat().every(Number.isFinite) ? matrix : undefined;
}
const isRec709 = (p: Primaries): boolean =>
  (['red', 'green', 'blue', 'white'] as const).every((k) => p[k].every((x, i) => Math.abs(x - REC709[k][i]!) < ALIKE));

/**
 * In place. Nothing is cut: what Rec. 709 cannot show is negative.
 * @param stride values a pixel; the first three are its colours
 */
export function convert(data: Float32Array, stride: number, [red, green, blue]: Rows): void {
  for (let i = 0; i + 2 < data.length; i += stride) {
    const [r, g, b] = [data[i]!, data[i + 1]!, data[i + 2]!];
    data[i] = red[0] * r + red[1] * g + red[2] * b;
    data[i + 1] = green[0] * r + green[1] * g + green[2] * b;
    data[i + 2] = blue[0] * r + blue[1] * g + blue[2] * b;
  }
}

export const convertedRemark = (fileName: string): string =>
  `“${fileName}” has other primaries than Rec. 709; its colours were converted.`;
