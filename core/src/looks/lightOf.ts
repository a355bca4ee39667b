// A light as a look has it: for the engine, the view and the plan alike.
import { kelvinColor } from '../image/index.ts';
import { type Matrix, type Rgb, type SceneDocument, type SceneLight, multiply } from '../scene/index.ts';
import { type Placement, turnedScaled } from './placement.ts';
import { NEUTRAL_KELVIN } from './properties.ts';
import type { ResolvedState } from './resolve.ts';
import { lightTarget } from './targets.ts';

/** color × intensity is what it gives; matrix: where it stands, in the world. */
export interface LightNow {
  readonly light: SceneLight;
  readonly matrix: Matrix;
  readonly castsShadow: boolean;
  readonly group: string;
}

/**
 * The light of a node that stands as `world` says, moved and turned in the world's axes about its own place; undefined
 * where it gives no light.
 */
export function lightOf(
  document: SceneDocument,
  state: ResolvedState,
  node: number,
  world: Matrix,
): LightNow | undefined {
  const n = document.nodes[node]!;
  const target = lightTarget(n.path);
  const get = (p: string) => state.get(target, `light.${p}`);
  const number = (p: string, otherwise: number): number => {
    const v = get(p);
    return typeof v === 'number' ? v : otherwise;
  };
  const triple = (p: string): Rgb | undefined => {
    const v = get(p);
    return Array.isArray(v) ? (v as unknown as Rgb) : undefined;
  };
  const source = document.lights[n.light!]!;
  const intensity = number('intensity', source.intensity);
  const kelvin = number('temperature', NEUTRAL_KELVIN);
  const warm = kelvinColor(kelvin);
  const color = (triple('color') ?? source.color).map((c, i) => c * warm[i]!) as unknown as Rgb;
  if (get('on') === false || !(intensity > 0) || !(Math.max(...color) > 0)) return undefined;
  const common = { color, intensity };
  const rad = (p: string, otherwise: number) => {
    const v = get(p);
    return typeof v === 'number' ? (v * Math.PI) / 180 : otherwise;
  };
  const light = ((): SceneLight => {
    switch (source.type) {
      case 'sun':
        return { ...source, ...common, angularDiameterRad: rad('diameter', source.angularDiameterRad) };
      case 'point':
        return { ...source, ...common, radiusM: number('radius', source.radiusM) };
      case 'spot': {
        const outerConeRad = rad('cone', source.outerConeRad * 2) / 2;
        return {
          ...source,
          ...common,
          radiusM: number('radius', source.radiusM),
          outerConeRad,
          innerConeRad: Math.min(outerConeRad, rad('coneInner', source.innerConeRad * 2) / 2),
        };
      }
      case 'disc':
        return { ...source, ...common, radiusM: Math.max(1e-4, number('radius', source.radiusM)) };
      case 'rectangle':
        return {
          ...source,
          ...common,
          widthM: number('width', source.widthM),
          heightM: number('height', source.heightM),
        };
    }
  })();
  const group = get('group');
  return {
    light,
    matrix: lightPlace(state, n.path, world),
    castsShadow: get('castsShadow') !== false,
    group: typeof group === 'string' ? group : '1',
  };
}

/**
 * Where a light stands in a look whose node stands as `world` says: turned about its own place, then moved, in the
 * world's axes. The same matrix where neither is set.
 */
export function lightPlace(state: ResolvedState, path: string, world: Matrix): Matrix {
  const offset = state.get(lightTarget(path), 'light.offset');
  const turn = state.get(lightTarget(path), 'light.turn');
  const set = (v: typeof offset): v is Rgb => Array.isArray(v) && v.some((x) => x !== 0);
  if (!set(offset) && !set(turn)) return world;
  const still = [...world.slice(0, 12), 0, 0, 0, 1];
  const m = set(turn) ? [...multiply(turnedScaled({ turn, scale: [1, 1, 1] }), still)] : still;
  for (let k = 0; k < 3; k++) m[12 + k] = world[12 + k]! + (set(offset) ? offset[k]! : 0);
  return m;
}

/** How a look moves and turns a light against where its node stands; undefined where it leaves it. */
export function lightPlacement(state: ResolvedState, path: string): Placement | undefined {
  const triple = (p: string): Rgb => {
    const v = state.get(lightTarget(path), p);
    return Array.isArray(v) ? (v as unknown as Rgb) : [0, 0, 0];
  };
  const p: Placement = { offset: triple('light.offset'), turn: triple('light.turn'), scale: [1, 1, 1] };
  return p.offset.some((x) => x !== 0) || p.turn.some((x) => x !== 0) ? p : undefined;
}
