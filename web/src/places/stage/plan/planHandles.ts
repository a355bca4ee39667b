// What can be dragged in the plan: the planes of the camera that is looked through, and its depth range.
import type { CameraSettings } from '@variscen/core/scene';
import { type P2, type Side, cone, distanceAt } from '../../../model/planGeometry.ts';

export type Handle = 'near' | 'far' | 'depthNear' | 'depthFar';
export type Distances = Readonly<Record<Handle, number>>;
/** From metres of the plan to pixels of the picture. */
export type ToPx = (p: P2) => P2;

/** The depth range's first: it may start as the planes do, and must be taken all the same. */
export const HANDLES = ['depthNear', 'depthFar', 'near', 'far'] as const satisfies readonly Handle[];
export const HANDLE_WORDS: Readonly<Record<Handle, string>> = {
  near: 'near plane',
  far: 'far plane',
  depthNear: 'depth from',
  depthFar: 'depth to',
};
const REACH_PX = 11;
/** Metres that a range is deep at least. */
const LEAST_DEPTH_M = 1e-3;
const LEAST_NEAR_M = 1e-4;

/** Metres along the view of a camera. */
export function distancesOf(c: CameraSettings): Distances {
  return {
    near: c.nearM,
    far: c.farM,
    depthNear: c.depthRangeM?.near ?? c.nearM,
    depthFar: c.depthRangeM?.far ?? c.farM,
  };
}

/** The camera with a handle at another distance, as far as the others let it. */
export function withDistance(c: CameraSettings, handle: Handle, distanceM: number): CameraSettings {
  const { depthNear: near, depthFar: far } = distancesOf(c);
  switch (handle) {
    case 'near':
      return { ...c, nearM: Math.min(Math.max(LEAST_NEAR_M, distanceM), c.farM - LEAST_DEPTH_M) };
    case 'far':
      return { ...c, farM: Math.max(distanceM, c.nearM + LEAST_DEPTH_M) };
    case 'depthNear':
      return { ...c, depthRangeM: { far, near: Math.min(Math.max(0, distanceM), far - LEAST_DEPTH_M) } };
    case 'depthFar':
      return { ...c, depthRangeM: { near, far: Math.max(distanceM, near + LEAST_DEPTH_M) } };
  }
}

export const isPlane = (handle: Handle): boolean => handle === 'near' || handle === 'far';
/** A camera that looks along the view shows no distances in it. */
export const hasHandles = (c: CameraSettings, side: Side): boolean => distanceAt(c, side, [0, 0]) !== undefined;

/** Where a handle's grip is: the planes' at one end of their line, the depth range's at the other. */
export function gripAt(c: CameraSettings, side: Side, handle: Handle, distanceM: number, toPx: ToPx): P2 {
  const { ends } = cone(c, side, distanceM);
  return toPx(ends[isPlane(handle) ? 1 : 0]);
}

/** The handle that is taken at a pixel. */
export function handleAt(c: CameraSettings, side: Side, [x, y]: P2, toPx: ToPx): Handle | null {
  if (!hasHandles(c, side)) return null;
  const distances = distancesOf(c);
  const isNear = (h: Handle) => {
    const [gx, gy] = gripAt(c, side, h, distances[h], toPx);
    return Math.hypot(gx - x, gy - y) < REACH_PX;
  };
  return HANDLES.find(isNear) ?? null;
}
