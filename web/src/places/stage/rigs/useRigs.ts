// The rigs as they would light what is shown, each as a small picture; and the options that one of them becomes.
import type { Project, Variant } from '@variscen/contract';
import {
  type Change,
  CellHashes,
  type Facet,
  type LookSources,
  type PendingEdits,
  type ResolvedState,
  type SceneIndex,
  layersOf,
  placeDocument,
  resolve,
} from '@variscen/core/looks';
import {
  RIGS,
  type Rig,
  type RigMade,
  type RigSettings,
  type Subject,
  rigChanges,
  subjectOfBox,
  subjectOfCamera,
} from '@variscen/core/rigs';
import { type CameraSettings, sceneBox } from '@variscen/core/scene';
import { useMemo } from 'react';
import { type PictureJob, pictureJob } from '../../../engine/smallPictures.tsx';
import { withChildren } from '../../../model/selection.ts';
import { hierarchyOf } from '../../../model/treeRows.ts';

/** What a rig is built about. */
export type SubjectKind = 'focus' | 'selection' | 'scene';
export interface RigAsked {
  readonly subject: SubjectKind;
  readonly settings: RigSettings;
  readonly replaces: boolean;
}
interface Parts {
  readonly project: Project;
  readonly index: SceneIndex;
  readonly state: ResolvedState;
  readonly variant: Variant;
  readonly camera: { readonly id: string; readonly settings: CameraSettings };
  readonly sceneHash: string;
  readonly nodes: readonly number[];
  readonly heightPx: number;
}
export interface MadeRig {
  readonly rig: Rig;
  readonly made: RigMade;
  readonly job: PictureJob;
}

const OWN_FACETS: readonly Facet[] = ['lighting', 'environment'];

export function useRigs(parts: Parts, { subject: kind, settings, replaces }: RigAsked): readonly MadeRig[] {
  const { project, index, state, variant, camera, sceneHash, nodes, heightPx } = parts;
  const { base, options, patches, pending } = project;
  const hashes = useMemo(() => new CellHashes(index, sceneHash), [index, sceneHash]);
  const subject = useMemo(
    () => subjectOf(kind, index, state, camera.settings, nodes),
    [kind, index, state, camera.settings, nodes],
  );
  return useMemo(() => {
    const others = variant.optionIds.filter((id) => !OWN_FACETS.includes(options.find((o) => o.id === id)!.facet));
    const sources = { base, options, patches } as unknown as LookSources;
    const edits = pending as unknown as PendingEdits;
    const without = resolve(index, layersOf(sources, { id: variant.id, optionIds: others }, camera.id, edits));
    return RIGS.map((rig): MadeRig => {
      const made = rigChanges(index, without, { rig, subject, camera: camera.settings, settings, replaces });
      const own = OWN_FACETS.map((facet) => ({
        id: `rig ${facet}`,
        facet,
        name: rig.label,
        changes: changesOf(made, facet),
      }));
      const optionIds = [...others, ...own.map((o) => o.id)];
      const lit = { ...sources, options: [...sources.options, ...own] };
      const layers = layersOf(lit, { id: variant.id, optionIds }, camera.id, edits);
      return { rig, made, job: pictureJob(`rig ${rig.id}`, hashes, index, layers, camera.settings, heightPx) };
    });
  }, [index, hashes, base, options, patches, pending, variant, camera, subject, settings, replaces, heightPx]);
}

const changesOf = (made: RigMade, facet: Facet): readonly Change[] =>
  facet === 'lighting' ? made.lighting : made.environment;

/** A rig as options that can be made. */
export const optionsOf = ({ rig, made }: MadeRig) =>
  OWN_FACETS.map((facet) => ({ facet, name: rig.label, changes: changesOf(made, facet) })).filter(
    (o) => o.changes.length > 0,
  );

function subjectOf(
  kind: SubjectKind,
  index: SceneIndex,
  state: ResolvedState,
  camera: CameraSettings,
  nodes: readonly number[],
): Subject {
  const placed = placeDocument(index.document, state);
  if (kind === 'focus') return subjectOfCamera(placed, camera);
  const inside = kind === 'selection' ? new Set(withChildren(hierarchyOf(index.document), nodes)) : undefined;
  // what is not meant has no shape
  const meant = placed.nodes.map(({ parts, ...n }, i) => (parts && (!inside || inside.has(i)) ? { ...n, parts } : n));
  const box = sceneBox({ ...placed, nodes: meant });
  return box ? subjectOfBox(box) : subjectOfCamera(placed, camera);
}
