// What a camera's values may be; the API checks by them, and what a file says comes in within them.
export type Limits = readonly [least: number, most: number];

export const CAMERA_LIMITS = {
  sizePx: [16, 16384],
  sensorWidthMm: [1, 200],
  focalLengthMm: [1, 2000],
  orthoHalfHeightM: [1e-6, 1e6],
  nearM: [0.0001, 1e6],
  farM: [0.001, 1e7],
  focusDistanceM: [0.001, 1e6],
  fStop: [0.1, 128],
} as const satisfies Record<string, Limits>;

/** Where a file sets no far plane. */
export const FAR_M = 10_000;

/** The nearest that is allowed; for what is no number, the least. */
export const within = ([least, most]: Limits, x: number): number => (x >= least ? Math.min(most, x) : least);
