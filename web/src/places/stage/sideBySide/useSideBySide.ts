// Up to four looks through one camera, each as a large picture by the engine: rough ones of all of them first.
import type { Project, Variant } from '@variscen/contract';
import {
  CellHashes,
  type Facet,
  type LookSources,
  type PendingEdits,
  type SceneIndex,
  layersOf,
} from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useMemo } from 'react';
import {
  type Picture,
  type PictureJob,
  earlierPictureOf,
  pictureJob,
  pictureOf,
  useSmallPictures,
} from '../../../engine/smallPictures.tsx';
import { withOption } from '../../../model/withOption.ts';

export const MOST_SIDE_BY_SIDE = 4;
const ROUGH_SAMPLES = 12;
const FINE_SAMPLES = 128;

/** Variants, or the options of a facet in the variant that is shown; null among these: the base. */
export type Compared = { readonly kind: 'variants' } | { readonly kind: 'options'; readonly facet: Facet };
export interface OneOfMany {
  readonly id: string | null;
  readonly name: string;
}

export const candidatesOf = (project: Project, compared: Compared): OneOfMany[] =>
  compared.kind === 'variants'
    ? project.variants.map((v) => ({ id: v.id, name: v.name }))
    : [
        { id: null, name: 'Base' },
        ...project.options.filter((o) => o.facet === compared.facet).map((o) => ({ id: o.id, name: o.name })),
      ];

interface Parts {
  readonly project: Project;
  readonly index: SceneIndex;
  readonly sceneHash: string;
  readonly variant: Variant;
  readonly camera: { readonly id: string; readonly settings: CameraSettings };
  readonly heightPx: number;
}
export interface Shown {
  readonly one: OneOfMany;
  readonly picture: Picture | undefined;
  /** It will get no better. */
  readonly isDone: boolean;
}

export function useSideBySide(
  parts: Parts,
  compared: Compared,
  chosen: readonly OneOfMany[],
): { readonly shown: readonly Shown[]; readonly fault: string | null } {
  const { project, index, sceneHash, variant, camera, heightPx } = parts;
  const { base, options, patches, pending, variants } = project;
  const hashes = useMemo(() => new CellHashes(index, sceneHash), [index, sceneHash]);
  const jobs = useMemo(() => {
    const sources = { base, options, patches } as unknown as LookSources;
    const layersFor = ({ id }: OneOfMany) => {
      const own =
        compared.kind === 'variants'
          ? (variants.find((v) => v.id === id) ?? variant)
          : { ...variant, optionIds: withOption({ options }, variant.optionIds, compared.facet, id) };
      return layersOf(sources, own, camera.id, pending as unknown as PendingEdits);
    };
    const all = (samples: number): PictureJob[] =>
      chosen.map((one) =>
        pictureJob(`beside ${one.id ?? 'base'}`, hashes, index, layersFor(one), camera.settings, heightPx, samples),
      );
    return { rough: all(ROUGH_SAMPLES), fine: all(FINE_SAMPLES) };
  }, [base, options, patches, pending, variants, variant, compared, chosen, hashes, index, camera, heightPx]);
  const inTurn = useMemo(() => [...jobs.rough, ...jobs.fine], [jobs]);
  const { fault } = useSmallPictures(sceneHash, inTurn, 'seen');
  const shown = chosen.map((one, i): Shown => {
    const fine = pictureOf(jobs.fine[i]!);
    return { one, picture: fine ?? pictureOf(jobs.rough[i]!) ?? earlierPictureOf(jobs.rough[i]!), isDone: !!fine };
  });
  return { shown, fault };
}
