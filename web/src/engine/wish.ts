// What the stage shows, as the live render is asked for it.
import { type ResolvedState, gradeOf, propertyOf } from '@variscen/core/looks';
import type { CameraSettings, Crop } from '@variscen/core/scene';
import type { Wish } from './messages.ts';

/** More pixels than this are not rendered; the picture is drawn larger. */
export const MOST_PIXELS = 500_000;
const MOST_THREADS = 16;
/** All of a small machine, since a slow picture helps nobody; one is left to the page where there are more. */
export const threadsFor = (cores: number): number => Math.min(MOST_THREADS, cores > 2 ? cores - 1 : Math.max(1, cores));

export interface Shown {
  readonly sceneHash: string;
  readonly state: ResolvedState;
  readonly camera: CameraSettings;
  readonly width: number;
  readonly height: number;
  /** A part of the frame, in per cent of it, that alone is rendered; absent: the whole frame. */
  readonly region?: Crop;
  readonly samples?: number;
  readonly evidence?: boolean;
}

/** The frame, or a region of it, in the pixels that it has on the page; not the part that a camera may crop to. */
export function wishOf({ sceneHash, state, camera, width, height, region, samples, evidence }: Shown): Wish {
  const share = region ? ((region.right - region.left) * (region.bottom - region.top)) / 100 ** 2 : 1;
  const k = Math.min(1, Math.sqrt(MOST_PIXELS / Math.max(1, width * height * share)));
  const widthPx = Math.max(1, Math.round(width * k));
  const heightPx = Math.max(1, Math.round(height * k));
  const changes = [...state.values.values()]
    .filter((v) => propertyOf(v.property.id)?.facet !== 'grade')
    .map((v) => ({ target: v.target, property: v.property.id, value: v.value }));
  return {
    sceneHash,
    changes,
    grade: gradeOf(state),
    camera: { ...camera, widthPx, heightPx, crop: region },
    widthPx,
    heightPx,
    ...(samples !== undefined && { samples }),
    ...(evidence && { evidence }),
  };
}
