// How well to render.
export interface Profile {
  readonly id: string;
  readonly name: string;
  /** Factor on the camera's frame size. */
  readonly sizeFactor: number;
  /** Samples a pixel at most. */
  readonly samples: number;
  readonly timeLimitS: number | null;
  readonly maxBounces: number;
  /** Largest radiance of one indirect contribution in nits; 0: no limit. */
  readonly clampIndirect: number;
}
export const PROFILES: readonly Profile[] = [
  { id: 'sketch', name: 'Sketch', sizeFactor: 1 / 3, samples: 12, timeLimitS: 60, maxBounces: 4, clampIndirect: 4 },
  { id: 'proof', name: 'Proof', sizeFactor: 1 / 2, samples: 96, timeLimitS: 900, maxBounces: 8, clampIndirect: 10 },
  { id: 'final', name: 'Final', sizeFactor: 1, samples: 512, timeLimitS: null, maxBounces: 12, clampIndirect: 0 },
];
/** Pixels of a frame in a profile, at least 1. */
export const frameSize = (p: Profile, c: { readonly widthPx: number; readonly heightPx: number }): { readonly widthPx: number; readonly heightPx: number } => ({
  widthPx: Math.max(1, Math.round(c.widthPx * p.sizeFactor)), heightPx: Math.max(1, Math.round(c.heightPx * p.sizeFactor)),
});
