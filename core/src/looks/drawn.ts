import type { SceneNode } from '../scene/index.ts';
import type { DrawnLook } from './properties.ts';
import { type ResolvedState, setOnObjects } from './resolve.ts';

const asDrawn = (v: unknown): DrawnLook | undefined => (v === 'own' || v === 'clay' || v === 'ink' ? v : undefined);

/**
 * How each node is drawn, in their order (those of the scene, or with the copies that a look makes): the nearest of
 * itself, its groups and the whole scene that says something decides.
 */
export function drawnLooks(
  state: ResolvedState,
  nodes: readonly SceneNode[] = state.scene.document.nodes,
): DrawnLook[] {
  const out: DrawnLook[] = [];
  const drawn = setOnObjects(state, 'object.drawn');
  const whole = asDrawn(state.get('scene', 'scene.drawn')) ?? 'own';
  for (const n of nodes) out.push(asDrawn(drawn(n.path)) ?? (n.parent < 0 ? whole : out[n.parent]!));
  return out;
}
