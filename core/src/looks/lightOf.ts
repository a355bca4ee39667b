// A light as a look has it: for the engine, the view and the plan alike.
import { kelvinColor } from '../image/index.ts';
import {
  type Matrix,
  type Rgb,
  type SceneDocument,
  type SceneLight,
  type SceneTexture,
  multiply,
} from '../scene/index.ts';
import { type Placement, turnedScaled } from './placement.ts';
import { NEUTRAL_KELVIN } from './properties.ts';
import { stands } from './addedLights.ts';
import { textureNamed } from './maps.ts';
import { type LightProfile, parseProfile } from './photometry.ts';
import type { ResolvedState } from './resolve.ts';
import { lightTarget } from './targets.ts';

/** color × intensity is what it gives; matrix: where it stands, in the world. */
export interface LightNow {
  readonly light: SceneLight;
  readonly matrix: Matrix;
  readonly castsShadow: boolean;
  /** A panel's surface. */
  readonly seenByCamera: boolean;
  readonly group: string;
  /** Of a panel: within this angle it is at least half as bright as straight ahead; π: alike to all sides. */
  readonly spreadRad: number;
  /** What a panel shows: its light is as bright as white there, and coloured by it. */
  readonly picture?: SceneTexture | undefined;
  /** The shape of a lamp's light about its −Z; of a point about straight down. */
  readonly profile?: LightProfile | undefined;
}

/** What a look says of one light. */
class Said {
  private readonly target: string;
  constructor(
    private readonly state: ResolvedState,
    path: string,
  ) {
    this.target = lightTarget(path);
  }
  get(property: string) {
    return this.state.get(this.target, `light.${property}`);
  }
  number(property: string, otherwise: number): number {
    const v = this.get(property);
    return typeof v === 'number' ? v : otherwise;
  }
  /** Of degrees. */
  rad(property: string, otherwise: number): number {
    const v = this.get(property);
    return typeof v === 'number' ? (v * Math.PI) / 180 : otherwise;
  }
  color(otherwise: Rgb): Rgb {
    const v = this.get('color');
    const own = Array.isArray(v) ? (v as unknown as Rgb) : otherwise;
    const warm = kelvinColor(this.number('temperature', NEUTRAL_KELVIN));
    return own.map((c, i) => c * warm[i]!) as unknown as Rgb;
  }
}

/** The light of a node in a look: its kind, size, colour and strength, whether it is on or not. */
export function lightShape(document: SceneDocument, state: ResolvedState, node: number): SceneLight {
  const n = document.nodes[node]!;
  const said = new Said(state, n.path);
  const source = document.lights[n.light!]!;
  const common = { color: said.color(source.color), intensity: said.number('intensity', source.intensity) };
  switch (source.type) {
    case 'sun':
      return { ...source, ...common, angularDiameterRad: said.rad('diameter', source.angularDiameterRad) };
    case 'point':
      return { ...source, ...common, radiusM: said.number('radius', source.radiusM) };
    case 'spot': {
      const outerConeRad = said.rad('cone', source.outerConeRad * 2) / 2;
      const innerConeRad = Math.min(outerConeRad, said.rad('coneInner', source.innerConeRad * 2) / 2);
      return { ...source, ...common, radiusM: said.number('radius', source.radiusM), outerConeRad, innerConeRad };
    }
    case 'disc':
    case 'ball':
      return { ...source, ...common, radiusM: Math.max(LEAST_RADIUS_M, said.number('radius', source.radiusM)) };
    case 'rectangle':
      return {
        ...source,
        ...common,
        widthM: said.number('width', source.widthM),
        heightM: said.number('height', source.heightM),
      };
  }
}
/** Of what has a surface. */
const LEAST_RADIUS_M = 1e-4;

/** Whether a light stands in a look and is switched on. */
export const isOn = (state: ResolvedState, path: string): boolean =>
  stands(state, path) && state.get(lightTarget(path), 'light.on') !== false;

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
  const { path } = document.nodes[node]!;
  if (!isOn(state, path)) return undefined;
  const light = lightShape(document, state, node);
  if (!(light.intensity > 0) || !(Math.max(...light.color) > 0)) return undefined;
  const said = new Said(state, path);
  const group = said.get('group');
  return {
    light,
    matrix: lightPlace(state, path, world),
    castsShadow: said.get('castsShadow') !== false,
    seenByCamera: said.get('seenByCamera') === true,
    group: typeof group === 'string' ? group : '1',
    spreadRad: said.rad('spread', Math.PI),
    picture: textureNamed(state, said.get('picture')),
    profile: parseProfile(said.get('profile')),
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
