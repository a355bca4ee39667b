// What is asked of a picture: its size, samples, layers and light groups.

export interface Region {
  readonly left: number;
  readonly top: number;
  readonly widthPx: number;
  readonly heightPx: number;
}

/**
 * Of lights, emitting instances and the environment lightGroup then says which part they are; the last part is of what
 * has none.
 */
export interface LightParts {
  /** The light group that each is part of; null: of none. */
  readonly of: readonly (number | null)[];
  /** Of each picture how much it has of each part: r, g, b, part after part. */
  readonly mixes: readonly (readonly number[])[];
}

export interface RenderSettings {
  /** Of the whole frame. */
  readonly widthPx: number;
  readonly heightPx: number;
  /** Part of the frame that is rendered; its pixels are those of the whole, to the bit. */
  readonly region?: Region;
  readonly maxBounces: number;
  /** Largest radiance of one indirect contribution in nits; 0 = no limit. */
  readonly clampIndirect: number;
  readonly seed: number;
  /** What is kept beside the picture. */
  readonly planes?: readonly PlaneName[];
  readonly lightGroups?: number;
  /** Light is kept apart, and pictures are mixed of it. */
  readonly parts?: LightParts;
  /**
   * Tiles whose relative noise falls below the threshold get no more samples; darker pixels are judged as if they were
   * as bright as the floor.
   */
  readonly noise?: { readonly threshold: number; readonly floorNits: number };
  /**
   * What mattered for the picture is counted. finer: 0…1, how wide a camera's rays will be in the picture that it is
   * for, to those that are traced.
   */
  readonly evidence?: { readonly finer: number };
  /** Paths that go through the stages together. The film does not depend on it; absent: as many as go fastest. */
  readonly wavePaths?: number;
  /** Makes ready for denoise(). */
  readonly denoise?: boolean;
  /** Textures are kept with at most so many texels a side. */
  readonly textureCapPx?: number;
}

/** Planes beside the picture: index in the kernel's table and floats a pixel. */
export const PLANE_SPECS = {
  moment: [0, 3],
  depth: [1, 1],
  position: [2, 3],
  normal: [3, 3],
  geometricNormal: [4, 3],
  albedo: [5, 3],
  emission: [6, 3],
  direct: [7, 3],
  indirect: [8, 3],
  objects: [9, 12],
  materials: [10, 12],
  guideAlbedo: [11, 3],
  guideNormal: [12, 3],
  groups: [13, 3],
  motion: [14, 2],
  leftOut: [15, 4],
  parts: [16, 3],
  partsHalf: [17, 3],
  partsEmission: [18, 3],
  partsDirect: [19, 3],
  groupsEmission: [20, 3],
  caught: [21, 3],
  behind: [22, 4],
} as const satisfies Record<string, readonly [number, number]>;
export type PlaneName = keyof typeof PLANE_SPECS;
/** What the denoiser and the noise threshold need; asked for by them. */
export const DENOISE_PLANES: readonly PlaneName[] = ['moment', 'emission', 'guideAlbedo', 'guideNormal'];
export function planesOf(s: RenderSettings): PlaneName[] {
  const wanted = new Set<PlaneName>(s.planes ?? []);
  if (s.denoise) for (const p of DENOISE_PLANES) wanted.add(p);
  if (s.noise) wanted.add('moment');
  if (s.lightGroups) wanted.add('groups');
  if (s.lightGroups && s.denoise) wanted.add('groupsEmission');
  if (s.parts) for (const p of partPlanes(s, wanted)) wanted.add(p);
  return (Object.keys(PLANE_SPECS) as PlaneName[]).filter((p) => wanted.has(p));
}
/** Of light that is kept apart: what its mixes need. */
function partPlanes({ denoise, noise }: RenderSettings, wanted: ReadonlySet<PlaneName>): PlaneName[] {
  const isNoiseAsked = denoise === true || noise !== undefined || wanted.has('moment');
  const isLightAsked = ['emission', 'direct', 'indirect', 'groupsEmission'].some((p) => wanted.has(p as PlaneName));
  return [
    'parts',
    ...(isNoiseAsked ? (['partsHalf'] as const) : []),
    ...(isLightAsked ? (['partsEmission'] as const) : []),
    ...(wanted.has('direct') || wanted.has('indirect') ? (['partsDirect'] as const) : []),
  ];
}
/**
 * What of the place's light arrives at shadow catchers, what would if no things were there, and what things send there.
 */
const CAUGHT_LAYERS = 3;
/** How many layers are denoised beside the picture. */
export const layersBeside = (s: RenderSettings): number =>
  (s.lightGroups ?? 0) + (s.planes?.includes('caught') ? CAUGHT_LAYERS : 0);
/** How many layers a plane has, one after another. */
export function layersOf(name: PlaneName, { lightGroups = 0, parts }: RenderSettings): number {
  if (name === 'caught') return CAUGHT_LAYERS;
  if (name === 'groups' || name === 'groupsEmission') return lightGroups;
  return name.startsWith('parts') ? (parts?.of.length ?? 0) : 1;
}
export const regionOf = (s: RenderSettings): Region =>
  s.region ?? { left: 0, top: 0, widthPx: s.widthPx, heightPx: s.heightPx };
