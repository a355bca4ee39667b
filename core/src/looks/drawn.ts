import type { DrawnLook } from './properties.ts';
import type { ResolvedState } from './resolve.ts';
import { objectTarget } from './targets.ts';

/** How each node of the scene is drawn, in the document's order: the nearest of itself and its groups that says something decides. */
export function drawnLooks(state: ResolvedState): DrawnLook[] {
  const out: DrawnLook[] = [];
  for (const n of state.scene.document.nodes) {
    const own = state.get(objectTarget(n.path), 'object.drawn');
    out.push(own === 'own' || own === 'clay' || own === 'ink' ? own : n.parent < 0 ? 'own' : out[n.parent]!);
  }
  return out;
}
