// The scene as a look places it: moved, turned, scaled, exploded and copied.
import {
  IDENTITY,
  type Matrix,
  type Rgb,
  type SceneDocument,
  type SceneNode,
  inverted,
  multiply,
  transformPoint,
  worldMatrices,
} from '../scene/index.ts';
import { withAddedLights } from './addedLights.ts';
import { withAims } from './aimedLights.ts';
import { withCopies } from './copies.ts';
import { type Placement, middles, placedAbout, placementOf } from './placement.ts';
import type { ResolvedState } from './resolve.ts';

const AXIS: Readonly<Record<string, number>> = { x: 0, y: 1, z: 2 };
/**
 * How far each node goes because a group that it is in comes apart; in the world's axes, metres. By the places that the
 * document has.
 */
function exploded(document: SceneDocument, state: ResolvedState, middle: (node: number) => Rgb): Map<number, Rgb> {
  const out = new Map<number, Rgb>();
  const groups = new Map<number, { by: number; way: string; each: boolean }>();
  for (const v of state.values.values()) {
    const i = v.property.id === 'object.explode' ? state.scene.nodes.get(v.target.slice('object:'.length)) : undefined;
    if (i !== undefined && typeof v.value === 'number' && v.value !== 0)
      groups.set(i, {
        by: v.value,
        way: String(state.get(v.target, 'object.explodeWay')),
        each: state.get(v.target, 'object.explodeParts') === 'each',
      });
  }
  if (!groups.size) return out;
  const go = (node: number, group: number, { by, way }: { by: number; way: string }) => {
    const from = middle(group);
    const to = middle(node);
    const before = out.get(node) ?? [0, 0, 0];
    const axis = AXIS[way];
    out.set(
      node,
      [0, 1, 2].map(
        (k) => before[k]! + (axis === undefined || axis === k ? by * (to[k]! - from[k]!) : 0),
      ) as unknown as Rgb,
    );
  };
  document.nodes.forEach((n, i) => {
    const own = groups.get(n.parent);
    if (own && !own.each) go(i, n.parent, own);
    if (n.parts)
      for (let p = n.parent; p >= 0; p = document.nodes[p]!.parent) {
        const g = groups.get(p);
        if (g?.each) go(i, p, g);
      }
  });
  return out;
}

/**
 * The scene as a look places it, with the lights that it adds after all others, and then the copies that it makes. The
 * document itself where the look adds, moves and copies nothing; nodes that it leaves keep their matrices to the bit.
 */
export function placeDocument(given: SceneDocument, state: ResolvedState): SceneDocument {
  return withAims(placed(withAddedLights(given, state), state), state);
}

function placed(document: SceneDocument, state: ResolvedState): SceneDocument {
  const named = new Set<number>();
  for (const v of state.values.values())
    if (v.property.facet === 'placement') {
      const i = state.scene.nodes.get(v.target.slice('object:'.length));
      if (i !== undefined) named.add(i);
    }
  if (!named.size) return document;
  const world = worldMatrices(document.nodes);
  const middle = middles(document, world);
  const apart = exploded(document, state, middle);
  const puts = new Map<number, Placement>();
  for (const i of new Set([...named, ...apart.keys()])) {
    const p = placementOf(state, document.nodes[i]!.path);
    const out = apart.get(i);
    if (p || out)
      puts.set(i, {
        offset: [0, 1, 2].map((k) => (p?.offset[k] ?? 0) + (out?.[k] ?? 0)) as unknown as Rgb,
        turn: p?.turn ?? [0, 0, 0],
        scale: p?.scale ?? [1, 1, 1],
      });
  }
  return withCopies(puts.size ? { ...document, nodes: placeNodes(document, world, middle, puts) } : document, state);
}

function placeNodes(
  document: SceneDocument,
  world: readonly Matrix[],
  middle: (node: number) => Rgb,
  placed: ReadonlyMap<number, Placement>,
): SceneNode[] {
  const nodes: SceneNode[] = [...document.nodes];
  const now: Matrix[] = [];
  document.nodes.forEach((n, i) => {
    const parent = n.parent < 0 ? IDENTITY : now[n.parent]!;
    const p = placed.get(i);
    if (!p) {
      now.push(n.parent < 0 ? n.matrix : multiply(parent, n.matrix));
      return;
    }
    // where it would be with its parents moved, and its middle then; a parent that is scaled to nothing takes what is
    // in it along
    const there = n.parent < 0 ? n.matrix : multiply(parent, n.matrix);
    const before = inverted(world[i]!);
    const c = before
      ? transformPoint(multiply(there, before), middle(i))
      : ([there[12]!, there[13]!, there[14]!] as Rgb);
    const put = multiply(placedAbout(c, p), there);
    const back = inverted(parent);
    now.push(back ? put : there);
    if (back) nodes[i] = { ...n, matrix: multiply(back, put) };
  });
  return nodes;
}
