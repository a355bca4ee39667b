// What the tree can be asked to show only: parts that are hidden, changed, or off the frame of a camera. Pure.
import { framePlanes, outside } from '@variscen/core/cull';
import {
  type Facet,
  type ResolvedState,
  type SceneIndex,
  lightTarget,
  objectTarget,
  parseTarget,
} from '@variscen/core/looks';
import { type CameraSettings, type SceneDocument, boundsOf, placements, worldMatrices } from '@variscen/core/scene';

export const QUESTIONS = {
  hidden: 'Hidden in this variant',
  changed: 'Changed in this variant',
  offFrame: 'Off frame for this camera',
} as const;
export type Question = keyof typeof QUESTIONS;

/** By path of an object or a light: the facet of a value that something else than the base sets. */
export function changedFacets(state: ResolvedState | undefined): ReadonlyMap<string, Facet> {
  const out = new Map<string, Facet>();
  for (const v of state?.values.values() ?? []) {
    if (v.layers.every((l) => l.kind === 'base')) continue;
    const { kind, name } = parseTarget(v.target)!;
    if (kind === 'object' || kind === 'light') out.set(name, v.property.facet);
  }
  return out;
}

/** Answers a question of each node. */
export function answerOf(
  question: Question,
  { document }: SceneIndex,
  state: ResolvedState,
  changed: ReadonlyMap<string, Facet>,
  camera: CameraSettings | undefined,
): (node: number) => boolean {
  switch (question) {
    case 'changed':
      return (i) => changed.has(document.nodes[i]!.path);
    case 'hidden': {
      const hidden = hiddenNodes(document, state);
      return (i) => hidden[i]!;
    }
    case 'offFrame':
      return camera ? offFrame(document, camera) : () => false;
  }
}

function hiddenNodes(document: SceneDocument, state: ResolvedState): boolean[] {
  const hidden: boolean[] = [];
  for (const { parent, path } of document.nodes)
    hidden.push(
      (parent >= 0 && hidden[parent]!) ||
        state.get(objectTarget(path), 'object.shown') === false ||
        state.get(lightTarget(path), 'light.on') === false,
    );
  return hidden;
}

function offFrame(document: SceneDocument, camera: CameraSettings): (node: number) => boolean {
  const planes = framePlanes(camera, 0);
  const world = worldMatrices(document.nodes);
  const placed = placements(document, world);
  return (i) => {
    const { parts } = document.nodes[i]!;
    const isOut = (mesh: number) => {
      const { min, max } = boundsOf(document, i, mesh, world);
      return outside(planes, min, max, placed[i]!);
    };
    return parts !== undefined && parts.every((p) => isOut(p.mesh));
  };
}
