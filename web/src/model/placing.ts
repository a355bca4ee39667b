// Changes that come of moving objects, dropping them and assigning materials to them. Pure.
import {
  type Change,
  PLACEMENT_PROPERTIES,
  type Placement,
  type ResolvedState,
  objectTarget,
  sameValue,
} from '@variscen/core/looks';
import type { SceneDocument } from '@variscen/core/scene';
import { targetOf } from './selection.ts';

/** What differs from the state where nodes are put by hand. */
export function placementChanges(
  document: SceneDocument,
  state: ResolvedState,
  nodes: readonly number[],
  placements: readonly Placement[],
): Change[] {
  const keys = Object.keys(PLACEMENT_PROPERTIES) as (keyof Placement)[];
  return nodes.flatMap((node, i) => {
    const target = targetOf(document, node);
    const kind = target.startsWith('light:') ? 'light' : 'object';
    return keys.flatMap((key): Change[] => {
      const property = `${kind}.${key}`;
      const value = placements[i]![key];
      const now = state.get(target, property);
      return now === undefined || sameValue(now, value) ? [] : [{ target, property, value }];
    });
  });
}

/** A material for targets. null: none of them can have a single one (groups, lights, objects with several). */
export function materialChanges(state: ResolvedState, targets: readonly string[], material: string): Change[] | null {
  const able = targets.filter((t) => state.get(t, 'object.material') !== undefined);
  if (!able.length) return null;
  return able
    .filter((t) => state.get(t, 'object.material') !== material)
    .map((target) => ({ target, property: 'object.material', value: material }));
}

/** Nodes that can be dropped, without what lies in another of them. */
export function droppable(document: SceneDocument, nodes: readonly number[]): number[] {
  const selected = new Set(nodes);
  return nodes.filter((n) => {
    if (targetOf(document, n).startsWith('light:')) return false;
    for (let p = document.nodes[n]!.parent; p >= 0; p = document.nodes[p]!.parent) if (selected.has(p)) return false;
    return true;
  });
}

/** @param heightsM by node how far it stands above what lies below; 0: it stands on it, null: nothing lies below */
export function dropChanges(
  document: SceneDocument,
  state: ResolvedState,
  nodes: readonly number[],
  heightsM: readonly (number | null)[],
): Change[] {
  return nodes.flatMap((n, i): Change[] => {
    const height = heightsM[i];
    if (!height) return [];
    const target = objectTarget(document.nodes[n]!.path);
    const [x, y, z] = state.get(target, 'object.offset') as readonly [number, number, number];
    return [{ target, property: 'object.offset', value: [x, Number((y - height).toFixed(6)), z] }];
  });
}
