// What the parts of the inspector are given.
import type { Project } from '@variscen/contract';
import { type Change, type ResolvedState, type SceneIndex, type Value, objectTarget } from '@variscen/core/looks';
import type { Destination } from '../../../model/destinations.ts';
import type { Lights } from '../lights/useLights.ts';

export interface InspectorProps {
  readonly project: Project;
  readonly index: SceneIndex | undefined;
  readonly state: ResolvedState | undefined;
  readonly selected: string | null;
  /** More than one: they are edited together. */
  readonly nodes: readonly number[];
  readonly destination: Destination;
  readonly edit: (targets: readonly string[], property: string, value: Value) => void;
  readonly record: (changes: readonly Change[]) => void;
  readonly onDiscard: (target: string, property: string) => void;
  /** Takes a recorded value out of where it is recorded. */
  readonly onClear: (layer: string, target: string, property: string) => void;
  readonly onDestination: (id: string) => void;
  readonly onSelect: (target: string) => void;
  readonly onNodes: (nodes: readonly number[]) => void;
  readonly lights: Lights;
}
/** Once the scene is there. */
export interface Inspected extends InspectorProps {
  readonly index: SceneIndex;
  readonly state: ResolvedState;
}

/** Names of the materials that an object wears. */
export function materialsOf(index: SceneIndex, state: ResolvedState, path: string): string[] {
  const parts = index.node(path)?.parts ?? [];
  const worn = parts.length === 1 ? state.get(objectTarget(path), 'object.material') : undefined;
  return typeof worn === 'string'
    ? [worn].filter((m) => index.material(m))
    : [...new Set(parts.map((x) => index.document.materials[x.material]!.name))];
}
