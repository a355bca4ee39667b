import type { SceneNode } from '../scene/index.ts';
import type { DrawnLook } from './properties.ts';
import type { ResolvedState } from './resolve.ts';
import { objectTarget } from './targets.ts';

/** How each node is drawn, in their order (those of the scene, or with the copies that a look makes): the nearest of itself and its groups that says something decides. */
export function drawnLooks(state: ResolvedState, nodes: readonly SceneNode[] = state.scene.document.nodes): DrawnLook[] {
  const out: DrawnLook[] = [];
  for (const n of nodes) {
    const own = state.get(objectTarget(n.path), 'object.drawn');
    out.push(own === 'own' || own === 'clay' || own === 'ink' ? own : n.parent < 0 ? 'own' : out[n.parent]!);
  }
  return out;
}
