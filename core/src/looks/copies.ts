// Copies that a look makes of things: rows, grids and rings. A copy is a node with its own matrix and the same meshes,
// so that it costs one transform; it is as its original in everything but its place, until a look says otherwise of the
// copy itself.
import {
  IDENTITY,
  type Matrix,
  type Rgb,
  type SceneDocument,
  type SceneNode,
  type SceneSkin,
  inverted,
  multiply,
  worldMatrices,
} from '../scene/index.ts';
import { type Placement, middles, placedAbout, placementOf } from './placement.ts';
import type { ResolvedState } from './resolve.ts';
import { copyPath, objectTarget } from './targets.ts';

/** Of one thing. */
export const MOST_COPIES = 5000;

/** Where the copies of a thing go against the thing itself, in the world's axes: the first of them is number 2. */
export function copyPlaces(
  state: ResolvedState,
  path: string,
): { readonly number: number; readonly place: Placement }[] {
  const t = objectTarget(path);
  const layout = state.get(t, 'object.copyLayout');
  if (layout !== 'grid' && layout !== 'ring') return [];
  const triple = (p: string): Rgb => {
    const v = state.get(t, p);
    return Array.isArray(v) ? (v as unknown as Rgb) : [0, 0, 0];
  };
  const count = triple('object.copyCount');
  const spacing = triple('object.copySpacing');
  const turn = triple('object.copyTurn');
  const turned = (k: number, more = 0): Rgb => [turn[0] * k, turn[1] * k + more, turn[2] * k];
  const out: { number: number; place: Placement }[] = [];
  if (layout === 'ring') {
    const radius = Number(state.get(t, 'object.ringRadius'));
    const n = Math.min(MOST_COPIES, count[0]);
    // the thing itself stands on the ring's +X side; each goes round towards −Z and turns with it
    for (let k = 1; k < n; k++) {
      const a = (2 * Math.PI * k) / n;
      out.push({
        number: k + 1,
        place: {
          offset: [radius * (Math.cos(a) - 1), 0, -radius * Math.sin(a)],
          turn: turned(k, (a * 180) / Math.PI),
          scale: [1, 1, 1],
        },
      });
    }
    return out;
  }
  for (let z = 0; z < count[2]; z++)
    for (let y = 0; y < count[1]; y++)
      for (let x = 0; x < count[0]; x++) {
        const k = (z * count[1] + y) * count[0] + x;
        if (k === 0) continue;
        if (out.length >= MOST_COPIES) return out;
        out.push({
          number: k + 1,
          place: { offset: [x * spacing[0], y * spacing[1], z * spacing[2]], turn: turned(k), scale: [1, 1, 1] },
        });
      }
  return out;
}

/**
 * The document with its copies. Things in things that are both copied: the inner ones first, and the outer take them
 * along.
 */
export function withCopies(document: SceneDocument, state: ResolvedState): SceneDocument {
  const originals = [...state.values.values()]
    .flatMap((v) => {
      const i =
        v.property.id === 'object.copyLayout' ? state.scene.nodes.get(v.target.slice('object:'.length)) : undefined;
      return i === undefined ? [] : [i];
    })
    .sort((a, b) => b - a);
  if (!originals.length) return document;
  const nodes: SceneNode[] = [...document.nodes];
  const skins: SceneSkin[] = [...(document.skins ?? [])];
  const world: Matrix[] = worldMatrices(nodes);
  const middle = middles(document, world);
  for (const i of originals) {
    const root = nodes[i]!;
    const places = copyPlaces(state, root.path);
    if (!places.length) continue;
    const inside = new Set([i]);
    for (let k = i + 1; k < nodes.length; k++) if (inside.has(nodes[k]!.parent)) inside.add(k);
    const parent = root.parent < 0 ? IDENTITY : world[root.parent]!;
    const back = inverted(parent);
    if (!back) continue;
    for (const { number, place } of places) {
      const path = copyPath(root.path, number);
      const at = new Map<number, number>();
      const own = placementOf(state, path);
      const put = multiply(placedAbout(middle(i), place), world[i]!);
      const c = middle(i);
      const here: Rgb = [c[0] + place.offset[0], c[1] + place.offset[1], c[2] + place.offset[2]];
      const final = own ? multiply(placedAbout(here, own), put) : put;
      for (const k of inside) {
        const n = nodes[k]!;
        const index = nodes.length;
        at.set(k, index);
        const { camera: _, ...rest } = n;
        const copy: SceneNode = {
          ...rest,
          path: k === i ? path : path + n.path.slice(root.path.length),
          name: k === i ? `${root.name} ${number}` : n.name,
          parent: k === i ? root.parent : at.get(n.parent)!,
          matrix: k === i ? multiply(back, final) : n.matrix,
          copyOf: n.copyOf ?? k,
        };
        nodes.push(copy);
        world.push(k === i ? final : multiply(world[copy.parent]!, copy.matrix));
      }
      // a skinned mesh lies where its joints are: in the copy, those of the copy
      for (const k of inside) {
        const n = nodes[at.get(k)!]!;
        const skin = n.skin === undefined ? undefined : skins[n.skin];
        if (skin)
          nodes[at.get(k)!] = {
            ...n,
            skin: skins.push({ ...skin, joints: skin.joints.map((j) => at.get(j) ?? j) }) - 1,
          };
      }
    }
  }
  return { ...document, nodes, ...(document.skins && { skins }) };
}
