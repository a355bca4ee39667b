// From a rendered film to what is delivered: denoised, drawn where the look says so, with its layers.
import type { ExrChannel } from '@variscen/core/image';
import type { Profile } from '@variscen/core/plan';
import { type CameraSettings, depthRangeM } from '@variscen/core/scene';
import type { Selection } from './assemble.ts';
import type { Engine } from './engine.ts';
import { exrLayers } from './exrLayers.ts';
import { inked } from './inked.ts';

export interface Finished {
  /** r, g, b in nits and coverage a pixel. */
  readonly film: Float32Array;
  readonly channels: readonly ExrChannel[];
  readonly metadata: Readonly<Record<string, string>>;
}

/** @throws EngineError CANCELLED */
export async function finish(engine: Engine, s: Selection, profile: Profile, camera: CameraSettings, signal?: AbortSignal): Promise<Finished> {
  const picture = engine.picture(), traced = picture.rgba, denoised = profile.denoise > 0 ? await engine.denoise(signal) : undefined;
  const smooth = denoised ? traced.map((x, i) => (i % 4 === 3 ? x : x + (denoised.rgb[(i >> 2) * 3 + (i & 3)]! - x) * profile.denoise)) : traced;
  const film = s.inked.length ? inked(picture, smooth, s.inked) : smooth, groups = picture.planes.groups, clean = denoised?.groups;
  return {
    film,
    ...exrLayers(picture, {
      ...(film !== traced && { delivered: film }), aovs: profile.aovs, depthRangeM: depthRangeM(camera), objects: s.instances.map((i) => i.object ?? i.name), materials: s.materials.map((m) => m.name ?? ''), lightGroups: s.lightGroups,
      ...(groups && clean && { deliveredGroups: groups.map((x, i) => x + (clean[i]! - x) * profile.denoise) }),
    }),
  };
}
