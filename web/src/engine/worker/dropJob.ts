// How far things can go down until they touch: it looks at the triangles of all that lies below.
import { objectTarget, placeDocument, resolve } from '@variscen/core/looks';
import {
  type Matrix,
  type SceneDocument,
  type Solid,
  boundsOf,
  deformGeometry,
  deforms,
  dropHeight,
  placements,
  poseFor,
  transformPoint,
  worldMatrices,
} from '@variscen/core/scene';
import type { DropWish } from '../messages.ts';
import type { OpenScene, SceneStore } from './sceneStore.ts';

/** Metres down for each node; null where nothing lies below. */
export async function drop(scenes: SceneStore, w: DropWish): Promise<(number | null)[]> {
  const open = await scenes.scene(w.sceneHash);
  const state = resolve(open.index, [{ id: 'snapshot', name: '', kind: 'base', changes: w.changes }]);
  const d = placeDocument(poseFor(open.document, open.motion, w.camera).now.document, state);
  const world = worldMatrices(d.nodes);
  const placed = placements(d, world);
  const shown: boolean[] = [];
  for (const n of d.nodes)
    shown.push((n.parent < 0 || shown[n.parent]!) && state.get(objectTarget(n.path), 'object.shown') !== false);
  const solids = new Solids(open, d, world, placed);
  const tops = w.nodes.map((node) => {
    const inside = new Set([node]);
    d.nodes.forEach((n, i) => {
      if (inside.has(n.parent)) inside.add(i);
    });
    return { node, parts: [...inside].filter((i) => d.nodes[i]!.parts && shown[i]) };
  });
  const boxes = new Map<number, Box>();
  const boxOf = (i: number): Box => {
    let b = boxes.get(i);
    if (!b) boxes.set(i, (b = solids.box(i)));
    return b;
  };
  const lowest = (parts: readonly number[]) => Math.min(Infinity, ...parts.map((i) => boxOf(i).min[1]!));
  const moved = new Map<number, number>();
  const out = new Map<number, number | null>();
  // the lowest first, so that what stands on another comes to stand on it again
  for (const { node, parts } of [...tops].sort((a, b) => lowest(a.parts) - lowest(b.parts))) {
    const own = new Set(parts);
    const waiting = new Set(tops.flatMap((t) => (out.has(t.node) || t.node === node ? [] : t.parts)));
    const box = union(parts.map(boxOf));
    const below: Solid[] = [];
    for (const [i, n] of d.nodes.entries()) {
      if (!n.parts || !shown[i] || own.has(i) || waiting.has(i)) continue;
      const b = boxOf(i);
      const down = moved.get(i) ?? 0;
      if (
        b.min[0]! > box.max[0]! ||
        b.max[0]! < box.min[0]! ||
        b.min[2]! > box.max[2]! ||
        b.max[2]! < box.min[2]! ||
        b.min[1]! - down > box.max[1]!
      )
        continue;
      below.push(...(await solids.of(i)).map((s) => lowered(s, down)));
    }
    const thing = merged((await Promise.all(parts.map((i) => solids.of(i)))).flat());
    const h = dropHeight(thing, below) ?? null;
    out.set(node, h);
    if (h) for (const i of parts) moved.set(i, h);
  }
  return w.nodes.map((n) => out.get(n) ?? null);
}

interface Box {
  readonly min: number[];
  readonly max: number[];
}
const union = (boxes: readonly Box[]): Box => ({
  min: [0, 1, 2].map((k) => Math.min(Infinity, ...boxes.map((b) => b.min[k]!))),
  max: [0, 1, 2].map((k) => Math.max(-Infinity, ...boxes.map((b) => b.max[k]!))),
});
const lowered = (s: Solid, by: number): Solid =>
  by === 0
    ? s
    : { indices: s.indices, positions: Float64Array.from(s.positions, (v, i) => (i % 3 === 1 ? v - by : v)) };
function merged(all: readonly Solid[]): Solid {
  const positions: number[] = [];
  const indices: number[] = [];
  for (const s of all) {
    const first = positions.length / 3;
    for (let i = 0; i < s.positions.length; i++) positions.push(s.positions[i]!);
    for (let i = 0; i < s.indices.length; i++) indices.push(s.indices[i]! + first);
  }
  return { positions, indices };
}

/** Shapes as they stand in the world. */
class Solids {
  constructor(
    private readonly open: OpenScene,
    private readonly d: SceneDocument,
    private readonly world: readonly Matrix[],
    private readonly placed: readonly Matrix[],
  ) {}

  box(node: number): Box {
    const min = [Infinity, Infinity, Infinity];
    const max = [-Infinity, -Infinity, -Infinity];
    for (const p of this.d.nodes[node]!.parts!) {
      const b = boundsOf(this.d, node, p.mesh, this.world);
      for (let c = 0; c < 8; c++)
        transformPoint(this.placed[node]!, [
          c & 1 ? b.max[0] : b.min[0],
          c & 2 ? b.max[1] : b.min[1],
          c & 4 ? b.max[2] : b.min[2],
        ]).forEach((x, k) => {
          min[k] = Math.min(min[k]!, x);
          max[k] = Math.max(max[k]!, x);
        });
    }
    return { min, max };
  }
  async of(node: number): Promise<Solid[]> {
    return Promise.all(
      this.d.nodes[node]!.parts!.map(async ({ mesh }) => {
        let g = await this.open.geometry(mesh);
        if (deforms(this.d, node, mesh)) g = deformGeometry(this.d, node, g, await this.open.deform(mesh), this.world);
        const positions = new Float64Array(g.positions.length);
        const matrix = this.placed[node]!;
        for (let i = 0; i < positions.length; i += 3)
          positions.set(transformPoint(matrix, [g.positions[i]!, g.positions[i + 1]!, g.positions[i + 2]!]), i);
        return { positions, indices: g.indices };
      }),
    );
  }
}
