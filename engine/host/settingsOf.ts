// What a profile and a camera ask of the engine.
import { type Aov, type Profile, keepsEachLight } from '@variscen/core/plan';
import { type CameraSettings, croppedPx, halfHeightOf, lensRadiusM } from '@variscen/core/scene';
import { MASK } from '../kernel/layout/index.ts';
import { NOISE_FLOOR_NITS } from './filmNoise.ts';
import type { EngineCamera } from './scene.ts';
import type { LightParts, PlaneName, RenderSettings } from './renderSettings.ts';
import type { Selection } from './selection.ts';

/** Whether light is delivered group by group, or source by source (keptApart). One group alone is the picture. */
export const keepsGroups = (p: Profile, { lightGroups }: Pick<Selection, 'lightGroups'>): boolean =>
  p.aovs.includes('lightGroups') && lightGroups.length > (keepsEachLight(p) ? 0 : 1);

/**
 * What a profile asks of the engine at a size.
 * @param parts of a trace of several lightings
 */
export const settingsOf = (
  p: Profile,
  size: { readonly widthPx: number; readonly heightPx: number },
  s: Pick<Selection, 'inked' | 'leftOut' | 'meshes' | 'lightGroups' | 'pose' | 'instances'>,
  parts?: LightParts,
): RenderSettings => ({
  ...size,
  ...(s.pose.now.camera.crop && { region: croppedPx(size, s.pose.now.camera.crop) }),
  ...(p.textureCapPx !== null && { textureCapPx: p.textureCapPx }),
  ...(keepsGroups(p, s) && { lightGroups: s.lightGroups.length }),
  ...(parts && { parts }),
  // light that is scattered once
  maxBounces: p.integrator === 'direct' ? 1 : p.maxBounces,
  clampIndirect: p.clampIndirect,
  seed: 1,
  planes: [
    ...p.aovs.flatMap((a) => AOV_PLANES[a]),
    ...(s.inked.length ? INK_PLANES : []),
    ...(leavesOut(s) ? (['leftOut'] as const) : []),
    ...(hasCatchers(s) && !parts ? CATCHER_PLANES : []),
  ],
  denoise: p.denoise > 0,
  ...(p.noise !== null && { noise: { threshold: p.noise, floorNits: NOISE_FLOOR_NITS } }),
});
/** Whether objects are left out, or pieces of meshes. */
export const leavesOut = ({ leftOut, meshes }: Pick<Selection, 'leftOut' | 'meshes'>): boolean =>
  leftOut.length > 0 || meshes.some((m) => m.leftOut !== undefined);
/** Whether some of what is selected only catches shadow and light. */
export const hasCatchers = ({ instances }: Pick<Selection, 'instances'>): boolean =>
  instances.some((i) => (i.mask & MASK.CATCHER) !== 0);
const CATCHER_PLANES: readonly PlaneName[] = ['caught', 'behind'];
const INK_PLANES: readonly PlaneName[] = ['albedo', 'emission', 'normal', 'depth', 'objects'];
const AOV_PLANES: Readonly<Record<Aov, readonly PlaneName[]>> = {
  depth: ['depth'],
  position: ['position'],
  normal: ['normal'],
  geometricNormal: ['geometricNormal'],
  albedo: ['albedo'],
  emission: ['emission'],
  direct: ['direct'],
  indirect: ['indirect'],
  objects: ['objects'],
  materials: ['materials'],
  samples: [],
  noise: ['moment'],
  lightGroups: [],
  motion: ['motion'],
  leftOut: [], // there where something is left out, asked for or not
};

export const engineCamera = (c: CameraSettings): EngineCamera => ({
  matrix: c.matrix,
  projection: c.projection,
  halfHeight: halfHeightOf(c),
  nearM: c.nearM,
  farM: c.farM,
  lensRadiusM: lensRadiusM(c),
  focusDistanceM: c.focusDistanceM,
  shiftX: c.shiftX ?? 0,
  shiftY: c.shiftY ?? 0,
  ...(c.blades !== undefined && { blades: c.blades }),
});
