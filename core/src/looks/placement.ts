// Where a look puts things: moved, turned and scaled against where the scene has them, in the world's axes, about the middle of what is moved. Against, not to: so a
// look still fits when a newer file of the scene puts the thing elsewhere.
import { IDENTITY, type Matrix, type Rgb, type SceneDocument, type SceneNode, boundsOf, inverted, multiply, placements, transformPoint, worldMatrices } from '../scene/index.ts';
import type { Value } from './properties.ts';
import type { ResolvedState } from './resolve.ts';
import { objectTarget } from './targets.ts';

export interface Placement { /** Metres. */ readonly offset: Rgb; /** Degrees about X, then Y, then Z of the world. */ readonly turn: Rgb; /** Factors along X, Y, Z of the world. */ readonly scale: Rgb }
export const PLACEMENT_PROPERTIES = { offset: 'object.offset', turn: 'object.turn', scale: 'object.scale' } as const;
const triple = (v: Value | undefined, fallback: Rgb): Rgb => (Array.isArray(v) ? (v as unknown as Rgb) : fallback);

/** What a look does to a node; undefined where it leaves it. */
export function placementOf(state: ResolvedState, path: string): Placement | undefined {
  const t = objectTarget(path), p = { offset: triple(state.get(t, 'object.offset'), [0, 0, 0]), turn: triple(state.get(t, 'object.turn'), [0, 0, 0]), scale: triple(state.get(t, 'object.scale'), [1, 1, 1]) };
  return p.offset.some((x) => x !== 0) || p.turn.some((x) => x !== 0) || p.scale.some((x) => x !== 1) ? p : undefined;
}

/** Column-major: scale, then turns about X, Y and Z. */
export function turnedScaled({ turn, scale }: Pick<Placement, 'turn' | 'scale'>): Matrix {
  const [a, b, c] = turn.map((d) => (d * Math.PI) / 180) as [number, number, number], [ca, sa, cb, sb, cc, sc] = [Math.cos(a), Math.sin(a), Math.cos(b), Math.sin(b), Math.cos(c), Math.sin(c)];
  // Rz · Ry · Rx · S
  return [cc * cb * scale[0], sc * cb * scale[0], -sb * scale[0], 0, (cc * sb * sa - sc * ca) * scale[1], (sc * sb * sa + cc * ca) * scale[1], cb * sa * scale[1], 0, (cc * sb * ca + sc * sa) * scale[2], (sc * sb * ca - cc * sa) * scale[2], cb * ca * scale[2], 0, 0, 0, 0, 1];
}

/** Nodes whose placement a look changes. */
export const placedNodes = (state: ResolvedState): number[] => [...new Set([...state.values.values()].filter((v) => v.property.facet === 'placement').map((v) => state.scene.nodes.get(v.target.slice('object:'.length))).filter((i) => i !== undefined))].sort((a, b) => a - b);

/** The middle of the box around a node and all that is in it, in the world as the document has it; its own place where nothing in it has a shape. */
export function middleOf(document: SceneDocument, node: number, world: readonly Matrix[]): Rgb {
  const inside = new Set([node]), lo = [Infinity, Infinity, Infinity], hi = [-Infinity, -Infinity, -Infinity], placed = placements(document, world);
  for (let i = node; i < document.nodes.length; i++) {
    const n = document.nodes[i]!;
    if (inside.has(n.parent)) inside.add(i);
    if (!inside.has(i)) continue;
    for (const p of n.parts ?? []) { const { min, max } = boundsOf(document, i, p.mesh, world); for (let c = 0; c < 8; c++) transformPoint(placed[i]!, [c & 1 ? max[0] : min[0], c & 2 ? max[1] : min[1], c & 4 ? max[2] : min[2]]).forEach((x, k) => { lo[k] = Math.min(lo[k]!, x); hi[k] = Math.max(hi[k]!, x); }); }
  }
  const m = world[node]!;
  return lo[0] === Infinity ? [m[12]!, m[13]!, m[14]!] : [(lo[0]! + hi[0]!) / 2, (lo[1]! + hi[1]!) / 2, (lo[2]! + hi[2]!) / 2];
}

/** The scene as a look places it. The document itself where the look moves nothing; nodes that it leaves keep their matrices to the bit. */
export function placeDocument(document: SceneDocument, state: ResolvedState): SceneDocument {
  const moved = placedNodes(state).flatMap((i) => { const p = placementOf(state, state.scene.document.nodes[i]!.path); return p ? [[i, p] as const] : []; });
  if (!moved.length) return document;
  const world = worldMatrices(document.nodes), nodes: SceneNode[] = [...document.nodes], placements = new Map(moved), now: Matrix[] = [];
  document.nodes.forEach((n, i) => {
    const parent = n.parent < 0 ? IDENTITY : now[n.parent]!, p = placements.get(i);
    if (!p) { now.push(n.parent < 0 ? n.matrix : multiply(parent, n.matrix)); return; }
    // where it would be with its parents moved, and its middle then; a parent that is scaled to nothing takes what is in it along
    const there = n.parent < 0 ? n.matrix : multiply(parent, n.matrix), before = inverted(world[i]!), c = before ? transformPoint(multiply(there, before), middleOf(document, i, world)) : ([there[12]!, there[13]!, there[14]!] as Rgb);
    const about = multiply([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, c[0] + p.offset[0], c[1] + p.offset[1], c[2] + p.offset[2], 1], multiply(turnedScaled(p), [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -c[0], -c[1], -c[2], 1])), placed = multiply(about, there), back = inverted(parent);
    now.push(back ? placed : there);
    if (back) nodes[i] = { ...n, matrix: multiply(back, placed) };
  });
  return { ...document, nodes };
}
