// A small picture of the frame in each option of a facet, and in none of them.
import type { Project, Variant } from '@variscen/contract';
import { CellHashes, type Facet, type SceneIndex, layersOf } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useDeferredValue, useMemo } from 'react';
import {
  type Picture,
  type PictureJob,
  earlierPictureOf,
  pictureJob,
  pictureOf,
  useSmallPictures,
} from '../../../engine/smallPictures.tsx';
import { withOption } from '../../../model/withOption.ts';

/** Width of a card, and what a picture in it is high at most, as OptionStrip.module.css has them. */
const CARD_PX = 136;
const PICTURE_PX = 76;

export interface ShownPicture {
  readonly picture: Picture;
  /** Of how it was before what is being edited. */
  readonly stale: boolean;
}
interface Parts {
  readonly project: Project;
  readonly variant: Variant;
  readonly index: SceneIndex | undefined;
  readonly sceneHash: string;
  readonly camera: { readonly id: string; readonly settings: CameraSettings } | undefined;
  readonly facet: Facet;
}
/** Answers with the picture of an option, by its id; null: of the base. */
export function useOptionPictures(parts: Parts): (optionId: string | null) => ShownPicture | undefined {
  const { project, variant, index, sceneHash, camera, facet } = parts;
  const { base, options, patches } = project;
  // small pictures are not waited for: what is seen at once comes before them
  const pending = useDeferredValue(project.pending);
  const hashes = useMemo(() => index && new CellHashes(index, sceneHash), [index, sceneHash]);
  const jobs = useMemo((): PictureJob[] => {
    if (!index || !hashes || !camera) return [];
    const { settings } = camera;
    const heightPx = Math.round(Math.min(PICTURE_PX, (CARD_PX * settings.heightPx) / settings.widthPx));
    const ids = [null, ...options.filter((o) => o.facet === facet).map((o) => o.id)];
    return ids.map((id) => {
      const worn = { ...variant, optionIds: withOption({ options }, variant.optionIds, facet, id) };
      const layers = layersOf({ base, options, patches } as never, worn, camera.id, pending as never);
      return pictureJob(jobId(id, facet), hashes, index, layers, settings, heightPx);
    });
  }, [index, hashes, camera, options, facet, base, patches, pending, variant]);
  useSmallPictures(sceneHash, jobs);
  return (id) => {
    const job = jobs.find((j) => j.id === jobId(id, facet));
    const now = job && pictureOf(job);
    const picture = now ?? (job && earlierPictureOf(job));
    return picture && { picture, stale: !now };
  };
}
const jobId = (id: string | null, facet: Facet): string => id ?? `base ${facet}`;
