// How a scene is looked at to find out what it needs: as a Final follows light, at a small size, without what is only
// for the eye.
import { type Profile, PROFILES } from '@variscen/core/plan';
import type { CameraSettings } from '@variscen/core/scene';
import { engineBuild } from '@variscen/engine/node';
import { StoredParts } from '../files/storedParts.ts';

export const LOOKED_AT: Profile = {
  ...PROFILES.find((p) => p.id === 'final')!,
  noise: null,
  denoise: 0,
  textureCapPx: 1024,
  aovs: [],
  displacement: { edgePx: 4, farM: 30, maxTriangles: 300_000 },
};
/** Meshes and textures as this machine's node loads them, too. @param mostBytes kept for further looks and traces */
export async function openParts(folder: string, mostBytes: number): Promise<StoredParts> {
  const parts = new StoredParts(folder, await engineBuild(), mostBytes, () => undefined);
  await parts.share();
  return parts;
}

/** @param mostPx of the longer side */
export function sizeOf({ widthPx, heightPx }: CameraSettings, mostPx: number): { widthPx: number; heightPx: number } {
  const factor = Math.min(1, mostPx / Math.max(widthPx, heightPx));
  return { widthPx: Math.max(1, Math.round(widthPx * factor)), heightPx: Math.max(1, Math.round(heightPx * factor)) };
}
