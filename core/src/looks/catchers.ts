// What only catches shadow and light: objects, and a ground that a look puts up.
import type { Matrix, Rgb, SceneNode } from '../scene/index.ts';
import type { Inputs } from './fingerprint.ts';
import { setOnObjects } from './resolve.ts';
import type { ResolvedState } from './resolve.ts';

export interface GroundNow {
  /** From the unit square to the world. */
  readonly matrix: Matrix;
  readonly color: Rgb;
  readonly roughness: number;
}

/** Whether something of a look only catches shadow and light. @param values as inputsOf() has them */
export const catchesShadow = (values: Inputs['values']): boolean =>
  values.some(([, property, value]) => value === true && CATCHES.has(property));
const CATCHES: ReadonlySet<string> = new Set(['object.catcher', 'environment.ground']);

/** The ground of a look that only catches shadow; undefined where there is none. */
export function groundOf(state: ResolvedState): GroundNow | undefined {
  const get = (p: string) => state.get('environment', `environment.${p}`);
  if (get('ground') !== true) return undefined;
  const size = Number(get('groundSize'));
  const [x, y, z] = get('groundAt') as Rgb;
  return {
    matrix: [size, 0, 0, 0, 0, 1, 0, 0, 0, 0, size, 0, x, y, z, 1],
    color: get('groundColor') as Rgb,
    roughness: Number(get('groundRoughness')),
  };
}

/** By node: an object is a shadow catcher where it or a group that it stands in is one. */
export function catchersAmong(state: ResolvedState, nodes: readonly SceneNode[]): boolean[] {
  const out: boolean[] = [];
  const set = setOnObjects(state, 'object.catcher');
  for (const n of nodes) out.push((n.parent >= 0 && out[n.parent]!) || set(n.path) === true);
  return out;
}
