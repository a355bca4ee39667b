// How far two pictures differ pixel by pixel, with their noise taken out: each is rendered twice, the second time with
// other samples, both at the same ones. Pixels that a rare path has made far too bright count as if they were usual
// ones: a few of them would be most of any sum of squares.

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
/** What this share of the pixels exceeds counts as if it were no more. */
const UNUSUAL_SHARE = 0.02;

export function pairedDifference(whole: TwiceRendered, other: TwiceRendered): PairedDifference {
  // each time by itself: what is left out by both together would make their noise alike
  const first = limited(whole.first.map((x, i) => other.first[i]! - x));
  const second = limited(whole.second.map((x, i) => other.second[i]! - x));
  const apart = limited(whole.first.map((x, i) => x - whole.second[i]!));
  const n = Math.max(1, apart.length);
  let products = 0;
  let squares = 0;
  let noise = 0;
  for (let i = 0; i < apart.length; i++) {
    const product = first[i]! * second[i]!;
    products += product;
    squares += product * product;
    noise += apart[i]! ** 2 / 2;
  }
  return {
    difference: Math.sqrt(Math.max(0, products / n)),
    chance: Math.sqrt((TOLD * Math.sqrt(squares)) / n),
    noise: Math.sqrt(noise / n),
  };
}
function limited(values: Float32Array): Float32Array {
  const sizes = values.map(Math.abs).sort();
  const most = sizes[Math.max(0, Math.ceil(sizes.length * (1 - UNUSUAL_SHARE)) - 1)] ?? 0;
  return values.map((x) => Math.min(most, Math.max(-most, x)));
}
