// How well to render, and into which files.
import type { LIGHT_GROUPS } from '../looks/property.ts';
import { PLAIN_FILES, type ProfileFiles } from './profileFiles.ts';

/** What light is followed: all of it; only what comes from lights directly; all of it on clay, for form. */
export const INTEGRATORS = ['full', 'direct', 'clay'] as const;
export type Integrator = (typeof INTEGRATORS)[number];

export type LightGroup = (typeof LIGHT_GROUPS)[number];
/** More lights are not kept apart by themselves: each takes as much memory as the picture. The weakest go together. */
export const MOST_LIGHTS_APART = 20;

export interface Profile extends ProfileSettings {
  readonly id: string;
  readonly name: string;
}
export interface ProfileSettings {
  /** Factor on the camera's frame size. */
  readonly sizeFactor: number;
  /** Of the frame, whatever its camera says, in the camera's proportions; null: by the factor. */
  readonly widthPx: number | null;
  readonly integrator: Integrator;
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
  /** Written as OpenEXR layers beside the picture. */
  readonly aovs: readonly Aov[];
  /** Of them those that are written as floats of 32 bits, whatever their usual type is. */
  readonly floatAovs: readonly Aov[];
  /**
   * Which light groups are written, where they are among the AOVs; null: all that a look has; 'lights': instead of
   * groups each light, the sky and each material that glows by itself.
   */
  readonly lightGroups: readonly LightGroup[] | 'lights' | null;
  readonly files: ProfileFiles;
  /** Of file names; null: the project's. */
  readonly nameTemplate: string | null;
  /**
   * Where its files go: below the output folder, or from “/” on, below a folder that is allowed; null: the output
   * folder.
   */
  readonly outputFolder: string | null;
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
  'leftOut',
] as const;
export type Aov = (typeof AOVS)[number];
const PLAIN = {
  widthPx: null,
  integrator: 'full',
  floatAovs: [],
  lightGroups: null,
  files: PLAIN_FILES,
  nameTemplate: null,
  outputFolder: null,
} as const;
export const PROFILES: readonly Profile[] = [
  {
    id: 'sketch',
    name: 'Sketch',
    ...PLAIN,
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
    ...PLAIN,
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
    ...PLAIN,
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
/** Whether each light is delivered by itself, instead of light groups. */
export const keepsEachLight = ({ aovs, lightGroups }: Pick<Profile, 'aovs' | 'lightGroups'>): boolean =>
  aovs.includes('lightGroups') && lightGroups === 'lights';

/** Pixels of a frame in a profile, at least 1. */
export function frameSize(
  p: Pick<Profile, 'sizeFactor' | 'widthPx'>,
  c: { readonly widthPx: number; readonly heightPx: number },
): { readonly widthPx: number; readonly heightPx: number } {
  const factor = p.widthPx === null ? p.sizeFactor : p.widthPx / c.widthPx;
  return {
    widthPx: Math.max(1, Math.round(c.widthPx * factor)),
    heightPx: Math.max(1, Math.round(c.heightPx * factor)),
  };
}
