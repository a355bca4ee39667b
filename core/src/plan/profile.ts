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
  /** Relative noise below which a part of the picture gets no more samples; null: all samples everywhere. */
  readonly noise: number | null;
  /** How much of the denoised picture is taken, 0…1; 0: none. */
  readonly denoise: number;
  /** Textures are kept with at most so many texels a side; null: as they are. */
  readonly textureCapPx: number | null;
  /**
   * Displaced surfaces are split until their edges are this long in the picture, nearer than farM, with no more than so
   * many triangles a mesh.
   */
  readonly displacement: { readonly edgePx: number; readonly farM: number; readonly maxTriangles: number };
  /** Written into the OpenEXR beside the picture. */
  readonly aovs: readonly Aov[];
}
export const AOVS = [
  'depth',
  'position',
  'normal',
  'geometricNormal',
  'albedo',
  'emission',
  'direct',
  'indirect',
  'objects',
  'materials',
  'samples',
  'noise',
  'lightGroups',
  'motion',
] as const;
export type Aov = (typeof AOVS)[number];
export const PROFILES: readonly Profile[] = [
  {
    id: 'sketch',
    name: 'Sketch',
    sizeFactor: 1 / 3,
    samples: 12,
    timeLimitS: 60,
    maxBounces: 6,
    clampIndirect: 4,
    noise: null,
    denoise: 1,
    textureCapPx: 1024,
    displacement: { edgePx: 4, farM: 30, maxTriangles: 300_000 },
    aovs: [],
  },
  {
    id: 'proof',
    name: 'Proof',
    sizeFactor: 1 / 2,
    samples: 96,
    timeLimitS: 900,
    maxBounces: 10,
    clampIndirect: 10,
    noise: 0.04,
    denoise: 1,
    textureCapPx: 2048,
    displacement: { edgePx: 3, farM: 60, maxTriangles: 1_000_000 },
    aovs: ['depth', 'objects'],
  },
  {
    id: 'final',
    name: 'Final',
    sizeFactor: 1,
    samples: 512,
    timeLimitS: null,
    maxBounces: 16,
    clampIndirect: 0,
    noise: 0.015,
    denoise: 0.7,
    textureCapPx: null,
    displacement: { edgePx: 2, farM: 120, maxTriangles: 4_000_000 },
    aovs: [
      'depth',
      'normal',
      'albedo',
      'emission',
      'direct',
      'indirect',
      'objects',
      'materials',
      'samples',
      'noise',
      'lightGroups',
      'motion',
    ],
  },
];
/** Pixels of a frame in a profile, at least 1. */
export const frameSize = (
  p: Profile,
  c: { readonly widthPx: number; readonly heightPx: number },
): { readonly widthPx: number; readonly heightPx: number } => ({
  widthPx: Math.max(1, Math.round(c.widthPx * p.sizeFactor)),
  heightPx: Math.max(1, Math.round(c.heightPx * p.sizeFactor)),
});
