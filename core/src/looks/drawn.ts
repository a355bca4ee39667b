import type { SceneNode } from '../scene/index.ts';
import type { DrawnLook } from './properties.ts';
import { type ResolvedState, setOnObjects } from './resolve.ts';

/** How each node is drawn, in their order (those of the scene, or with the copies that a look makes): the nearest of itself and its groups that says something decides. */
export function drawnLooks(state: ResolvedState, nodes: readonly SceneNode[] = state.scene.document.nodes): DrawnLook[] {
  const out: DrawnLook[] = [], drawn = setOnObjects(state, 'object.drawn');
  for (const n of nodes) {
    const own = drawn(n.path);
    out.push(own === 'own' || own === 'clay' || own === 'ink' ? own : n.parent < 0 ? 'own' : out[n.parent]!);
  }
  return out;
}
