// Splits a mesh's edges until none looks longer than wanted. Whether an edge is split follows from its two ends alone,
// so neighbours agree and no cracks open.
import { type Matrix, transformPoint } from '../scene/index.ts';

export interface SubdivideOptions {
  /** Where the mesh is placed; an edge counts as long as it looks in the placement where it looks longest. */
  readonly placements: readonly Matrix[];
  readonly eye: readonly [number, number, number];
  /** Pixels that a metre has at a distance of a metre; of a parallel view at any distance. */
  readonly pixelsPerM: number;
  readonly parallel: boolean;
  readonly edgePx: number;
  /** Beyond it nothing is split. */
  readonly farM: number;
  readonly maxTriangles: number;
}
/**
 * What an edge is cut from: vertex numbers of its ends. Vertices from `from` on are middles of parents[2 (v − from)],
 * parents[2 (v − from) + 1].
 */
export interface Subdivided {
  readonly indices: Uint32Array;
  readonly positions: Float32Array;
  readonly from: number;
  readonly parents: Uint32Array;
  /** The limit ended it before all edges were short. */
  readonly limited: boolean;
}

const MOST_PASSES = 16;
const KEY = 2 ** 26;

/** @throws RangeError with more than 67 million vertices */
export function subdivide(positions: Float32Array, given: Uint32Array, o: SubdivideOptions): Subdivided {
  const from = positions.length / 3;
  const parents: number[] = [];
  const points: number[] = Array.from(positions);
  let indices = given;
  let limited = false;
  const isLong = (a: number, b: number): boolean => {
    const p: [number, number, number] = [points[a * 3]!, points[a * 3 + 1]!, points[a * 3 + 2]!];
    const q: [number, number, number] = [points[b * 3]!, points[b * 3 + 1]!, points[b * 3 + 2]!];
    return o.placements.some((m) => {
      const u = transformPoint(m, p);
      const v = transformPoint(m, q);
      const length = Math.hypot(u[0] - v[0], u[1] - v[1], u[2] - v[2]);
      // as near as any point of it can be
      const distance = Math.max(
        length * 1e-3,
        Math.hypot((u[0] + v[0]) / 2 - o.eye[0], (u[1] + v[1]) / 2 - o.eye[1], (u[2] + v[2]) / 2 - o.eye[2]) -
          length / 2,
      );
      return distance <= o.farM && length * o.pixelsPerM > o.edgePx * (o.parallel ? 1 : distance);
    });
  };
  for (let pass = 0; pass < MOST_PASSES; pass++) {
    const middles = new Map<number, number>();
    const known = new Map<number, boolean>();
    const marks = new Uint8Array(indices.length);
    let triangles = 0;
    for (let t = 0; t < indices.length; t += 3) {
      let cuts = 0;
      for (let e = 0; e < 3; e++) {
        const a = indices[t + e]!;
        const b = indices[t + ((e + 1) % 3)]!;
        const key = a < b ? a * KEY + b : b * KEY + a;
        let long = known.get(key);
        if (long === undefined) known.set(key, (long = a < b ? isLong(a, b) : isLong(b, a)));
        if (long) {
          marks[t + e] = 1;
          cuts++;
        }
      }
      triangles += 1 + cuts;
    }
    if (triangles === indices.length / 3) break;
    if (triangles > o.maxTriangles) {
      limited = true;
      break;
    }
    const out = new Uint32Array(triangles * 3);
    let n = 0;
    const middle = (a: number, b: number): number => {
      const key = a < b ? a * KEY + b : b * KEY + a;
      let m = middles.get(key);
      if (m === undefined) {
        m = points.length / 3;
        if (m >= KEY)
          throw new RangeError('Displacement would make more than 67 million vertices. Ask for longer edges.');
        parents.push(a, b);
        for (let k = 0; k < 3; k++) points.push(Math.fround((points[a * 3 + k]! + points[b * 3 + k]!) * 0.5));
        middles.set(key, m);
      }
      return m;
    };
    const put = (a: number, b: number, c: number) => {
      out[n++] = a;
      out[n++] = b;
      out[n++] = c;
    };
    for (let t = 0; t < indices.length; t += 3) {
      const cuts = marks[t]! + marks[t + 1]! + marks[t + 2]!;
      // turned so that with one cut it is the first edge's, with two the last edge is whole
      let turn = 0;
      if (cuts === 1) turn = [0, 1, 2].find((e) => marks[t + e])!;
      if (cuts === 2) turn = [0, 1, 2].find((e) => !marks[t + ((e + 2) % 3)])!;
      const a = indices[t + turn]!;
      const b = indices[t + ((turn + 1) % 3)]!;
      const c = indices[t + ((turn + 2) % 3)]!;
      if (cuts === 0) put(a, b, c);
      else if (cuts === 1) {
        const m = middle(a, b);
        put(a, m, c);
        put(m, b, c);
      } else if (cuts === 2) {
        const m = middle(a, b);
        const k = middle(b, c);
        put(m, b, k);
        put(a, m, k);
        put(a, k, c);
      } else {
        const m = middle(a, b);
        const k = middle(b, c);
        const l = middle(c, a);
        put(a, m, l);
        put(m, b, k);
        put(l, k, c);
        put(m, k, l);
      }
    }
    indices = out;
  }
  return { indices, positions: Float32Array.from(points), from, parents: Uint32Array.from(parents), limited };
}

/** An attribute of so many numbers a vertex, with middles between. */
export function interpolated(values: Float32Array, size: number, s: Subdivided): Float32Array {
  const out = new Float32Array((s.positions.length / 3) * size);
  out.set(values);
  for (let i = 0; i < s.parents.length; i += 2)
    for (let k = 0; k < size; k++)
      out[(s.from + i / 2) * size + k] = (out[s.parents[i]! * size + k]! + out[s.parents[i + 1]! * size + k]!) * 0.5;
  return out;
}
