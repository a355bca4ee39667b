/** Luminance of the linear Rec.709 colour whose red stands at i, in the unit of its channels. */
export const luminanceAt = (d: ArrayLike<number>, i: number): number =>
  0.2126 * d[i]! + 0.7152 * d[i + 1]! + 0.0722 * d[i + 2]!;
