// Where a look puts things: moved, turned and scaled against where the scene has them, in the world's axes, about the
// middle of what is moved. Against, not to: so a look still fits when a newer file of the scene puts the thing
// elsewhere.
import {
  type Matrix,
  type Rgb,
  type SceneDocument,
  boundsOf,
  multiply,
  placements,
  transformPoint,
} from '../scene/index.ts';
import { AIM, type Value } from './properties.ts';
import type { ResolvedState, ResolvedValue } from './resolve.ts';
import { ADDED, objectTarget } from './targets.ts';

export interface Placement {
  /** Metres. */
  readonly offset: Rgb;
  /** Degrees about X, then Y, then Z of the world. */
  readonly turn: Rgb;
  /** Factors along X, Y, Z of the world. */
  readonly scale: Rgb;
}
export const PLACEMENT_PROPERTIES = { offset: 'object.offset', turn: 'object.turn', scale: 'object.scale' } as const;
const triple = (v: Value | undefined, fallback: Rgb): Rgb => (Array.isArray(v) ? (v as unknown as Rgb) : fallback);

/** What a look does to a node; undefined where it leaves it. */
export function placementOf(state: ResolvedState, path: string): Placement | undefined {
  const t = objectTarget(path);
  const p = {
    offset: triple(state.get(t, 'object.offset'), [0, 0, 0]),
    turn: triple(state.get(t, 'object.turn'), [0, 0, 0]),
    scale: triple(state.get(t, 'object.scale'), [1, 1, 1]),
  };
  return p.offset.some((x) => x !== 0) || p.turn.some((x) => x !== 0) || p.scale.some((x) => x !== 1) ? p : undefined;
}

/** Column-major: scale, then turns about X, Y and Z. */
export function turnedScaled({ turn, scale }: Pick<Placement, 'turn' | 'scale'>): Matrix {
  const [a, b, c] = turn.map((d) => (d * Math.PI) / 180) as [number, number, number];
  const [ca, sa, cb, sb, cc, sc] = [Math.cos(a), Math.sin(a), Math.cos(b), Math.sin(b), Math.cos(c), Math.sin(c)];
  // Rz · Ry · Rx · S
  return [
    cc * cb * scale[0],
    sc * cb * scale[0],
    -sb * scale[0],
    0,
    (cc * sb * sa - sc * ca) * scale[1],
    (sc * sb * sa + cc * ca) * scale[1],
    cb * sa * scale[1],
    0,
    (cc * sb * ca + sc * sa) * scale[2],
    (sc * sb * ca - cc * sa) * scale[2],
    cb * ca * scale[2],
    0,
    0,
    0,
    0,
    1,
  ];
}

/**
 * For each node the middle of the box around it and all that is in it, in the world as the document has it; its own
 * place where nothing in it has a shape.
 */
export function middles(document: SceneDocument, world: readonly Matrix[]): (node: number) => Rgb {
  const count = document.nodes.length;
  const lo = new Float64Array(count * 3).fill(Infinity);
  const hi = new Float64Array(count * 3).fill(-Infinity);
  const placed = placements(document, world);
  const grow = (i: number, k: number, low: number, high: number) => {
    if (low < lo[i * 3 + k]!) lo[i * 3 + k] = low;
    if (high > hi[i * 3 + k]!) hi[i * 3 + k] = high;
  };
  // children stand after their parents, so that from the end each is whole when it goes into its parent
  for (let i = count - 1; i >= 0; i--) {
    const n = document.nodes[i]!;
    for (const p of n.parts ?? []) {
      const { min, max } = boundsOf(document, i, p.mesh, world);
      for (let c = 0; c < 8; c++)
        transformPoint(placed[i]!, [c & 1 ? max[0] : min[0], c & 2 ? max[1] : min[1], c & 4 ? max[2] : min[2]]).forEach(
          (x, k) => grow(i, k, x, x),
        );
    }
    if (n.parent >= 0) for (let k = 0; k < 3; k++) grow(n.parent, k, lo[i * 3 + k]!, hi[i * 3 + k]!);
  }
  return (node) =>
    lo[node * 3]! === Infinity
      ? [world[node]![12]!, world[node]![13]!, world[node]![14]!]
      : ([0, 1, 2].map((k) => (lo[node * 3 + k]! + hi[node * 3 + k]!) / 2) as unknown as Rgb);
}

/** What a look does to where things are, as one text: the same text, the same places. */
export function placementKey(state: ResolvedState): string {
  const aiming = new Set<string>();
  for (const v of state.values.values()) if (v.property.id === AIM) aiming.add(v.target);
  const counts = ({ target, property }: ResolvedValue) =>
    property.facet === 'placement' || property.id === ADDED || property.id === AIM || aiming.has(target);
  return JSON.stringify([...state.values.values()].filter(counts).map((v) => [v.target, v.property.id, v.value]));
}

/** Scaled and turned about a point, then moved. */
export const placedAbout = (c: Rgb, p: Placement): Matrix =>
  multiply(
    [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, c[0] + p.offset[0], c[1] + p.offset[1], c[2] + p.offset[2], 1],
    multiply(turnedScaled(p), [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -c[0], -c[1], -c[2], 1]),
  );
