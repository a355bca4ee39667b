import type { Matrix, Rgb } from '../scene/index.ts';
import type { ResolvedState } from './resolve.ts';

export interface BackdropNow {
  /** From the unit shape to the world. */
  readonly matrix: Matrix;
  readonly color: Rgb;
  readonly roughness: number;
}

/** The backdrop sweep of a look; undefined where there is none. */
export function backdropOf(state: ResolvedState): BackdropNow | undefined {
  const get = (p: string) => state.get('environment', `environment.${p}`);
  const triple = (p: string) => get(p) as Rgb;
  if (get('backdrop') !== true) return undefined;
  const [w, h, d] = triple('backdropSize');
  const [x, y, z] = triple('backdropAt');
  const a = (Number(get('backdropTurn')) * Math.PI) / 180;
  const c = Math.cos(a);
  const s = Math.sin(a);
  return {
    matrix: [c * w, 0, -s * w, 0, 0, h, 0, 0, s * d, 0, c * d, 0, x, y, z, 1],
    color: triple('backdropColor'),
    roughness: Number(get('backdropRoughness')),
  };
}
