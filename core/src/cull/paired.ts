// How far two pictures differ pixel by pixel, with their noise taken out: each is rendered twice, the second time with
// other samples, both at the same ones.

/** Luminance, a pixel. */
export interface TwiceRendered {
  readonly first: Float32Array;
  readonly second: Float32Array;
}
export interface PairedDifference {
  /**
   * Root mean square of the difference that is not noise. Noise of both times is independent, so that it is nought in
   * the mean of first × second difference, of which this is the root; nought where that is below nought.
   */
  readonly difference: number;
  /** So large it would be taken to be by chance, two standard deviations, were there none. */
  readonly chance: number;
  /** Root mean square of the noise of one time. */
  readonly noise: number;
}
const TOLD = 2;

export function pairedDifference(whole: TwiceRendered, other: TwiceRendered): PairedDifference {
  const pixels = whole.first.length;
  let products = 0;
  let squares = 0;
  let noise = 0;
  for (let i = 0; i < pixels; i++) {
    const product = (other.first[i]! - whole.first[i]!) * (other.second[i]! - whole.second[i]!);
    products += product;
    squares += product * product;
    noise += (whole.first[i]! - whole.second[i]!) ** 2 / 2;
  }
  const n = Math.max(1, pixels);
  return {
    difference: Math.sqrt(Math.max(0, products / n)),
    chance: Math.sqrt((TOLD * Math.sqrt(squares)) / n),
    noise: Math.sqrt(noise / n),
  };
}
