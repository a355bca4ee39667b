// Displacement: points of a finely split mesh are moved along its normals by a height map. Points that lie in one place
// move as one, so that seams of texture coordinates and creases stay closed.
import type { Geometry, Matrix, TextureRef } from '../scene/index.ts';
import { type SubdivideOptions, interpolated, subdivide } from './subdivide.ts';

export interface HeightMap {
  readonly width: number;
  readonly height: number;
  /** RGBA, 8 or 16 bit; red is the height. */
  readonly data: Uint8Array | Uint16Array;
  readonly use: Pick<TextureRef, 'uvSet' | 'wrapS' | 'wrapT' | 'matrix'>;
}

const wrapped = (i: number, n: number, how: TextureRef['wrapS']): number => {
  if (how === 'clamp') return Math.min(n - 1, Math.max(0, i));
  const m = ((i % n) + n) % n;
  return how === 'mirror' && Math.floor(i / n) % 2 !== 0 ? n - 1 - m : m;
};
/** 0…1, between texels linear. */
export function heightAt({ width, height, data, use }: HeightMap, u: number, v: number): number {
  const [a, b, c, d, e, f] = use.matrix;
  const x = (a * u + b * v + c) * width - 0.5;
  const y = (d * u + e * v + f) * height - 0.5;
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const fx = x - x0;
  const fy = y - y0;
  const most = data instanceof Uint16Array ? 65535 : 255;
  const at = (i: number, j: number) =>
    data[(wrapped(j, height, use.wrapT) * width + wrapped(i, width, use.wrapS)) * 4]! / most;
  return (
    (at(x0, y0) * (1 - fx) + at(x0 + 1, y0) * fx) * (1 - fy) +
    (at(x0, y0 + 1) * (1 - fx) + at(x0 + 1, y0 + 1) * fx) * fy
  );
}

export interface DisplaceOptions extends SubdivideOptions {
  readonly map: HeightMap;
  /** How far white is moved along the normal; black stays. Below 0: inwards. */
  readonly heightM: number;
}
export interface Displaced {
  readonly geometry: Geometry;
  readonly limited: boolean;
}

/** Two normals nearer than this are of one smooth surface. */
const SMOOTH = 0.99;

/** undefined where the mesh has no coordinates for the map. */
export function displace(g: Geometry, o: DisplaceOptions): Displaced | undefined {
  const uv = o.map.use.uvSet ? g.uv1 : g.uv0;
  if (!uv) return undefined;
  const s = subdivide(g.positions, g.indices, o);
  const n = s.positions.length / 3;
  const coordinates = interpolated(uv, 2, s);
  const places = placesOf(s.positions);
  const count = largest(places) + 1;
  const normals = interpolated(
    g.normals ?? areaNormals(s.positions, s.indices, places, count).subarray(0, g.positions.length),
    3,
    s,
  );
  normalize(normals);
  // one move for all points of a place: their mean normal, their mean height
  const mean = new Float32Array(count * 3);
  const heights = new Float32Array(count);
  const sharing = new Uint32Array(count);
  for (let v = 0; v < n; v++) {
    const p = places[v]!;
    for (let k = 0; k < 3; k++) mean[p * 3 + k]! += normals[v * 3 + k]!;
    heights[p]! += heightAt(o.map, coordinates[v * 2]!, coordinates[v * 2 + 1]!);
    sharing[p]!++;
  }
  normalize(mean);
  const m: Matrix = o.placements[0]!;
  const positions = s.positions.slice();
  const together = new Uint8Array(count).fill(1);
  for (let v = 0; v < n; v++) {
    const p = places[v]! * 3;
    const x = mean[p]!;
    const y = mean[p + 1]!;
    const z = mean[p + 2]!;
    const length =
      Math.hypot(
        m[0]! * x + m[4]! * y + m[8]! * z,
        m[1]! * x + m[5]! * y + m[9]! * z,
        m[2]! * x + m[6]! * y + m[10]! * z,
      ) || 1;
    const h = ((heights[places[v]!]! / sharing[places[v]!]!) * o.heightM) / length;
    for (let k = 0; k < 3; k++) positions[v * 3 + k]! += mean[p + k]! * h;
    if (normals[v * 3]! * x + normals[v * 3 + 1]! * y + normals[v * 3 + 2]! * z < SMOOTH) together[places[v]!] = 0;
  }
  // creases stay creases: there each point keeps the normal of its own side
  const joint = areaNormals(positions, s.indices, places, count);
  const own = areaNormals(
    positions,
    s.indices,
    Uint32Array.from({ length: n }, (_, i) => i),
    n,
  );
  const out = new Float32Array(n * 3);
  for (let v = 0; v < n; v++) {
    const from = together[places[v]!] ? joint.subarray(v * 3, v * 3 + 3) : own.subarray(v * 3, v * 3 + 3);
    out.set(from, v * 3);
  }
  return {
    limited: s.limited,
    geometry: {
      positions,
      normals: out,
      indices: s.indices,
      ...(g.uv0 && { uv0: o.map.use.uvSet ? interpolated(g.uv0, 2, s) : coordinates }),
      ...(g.uv1 && { uv1: o.map.use.uvSet ? coordinates : interpolated(g.uv1, 2, s) }),
      ...(g.colors && { colors: interpolated(g.colors, 4, s) }),
    },
  };
}

function largest(a: Uint32Array): number {
  let m = 0;
  for (const x of a) if (x > m) m = x;
  return m;
}
function normalize(v: Float32Array): void {
  for (let i = 0; i < v.length; i += 3) {
    const l = Math.hypot(v[i]!, v[i + 1]!, v[i + 2]!) || 1;
    for (let k = 0; k < 3; k++) v[i + k]! /= l;
  }
}

/** Normals a vertex, of the triangles around its place weighted by area. */
function areaNormals(p: Float32Array, indices: Uint32Array, places: Uint32Array, count: number): Float32Array {
  const sum = new Float32Array(count * 3);
  const out = new Float32Array(p.length);
  for (let t = 0; t < indices.length; t += 3) {
    const a = indices[t]! * 3;
    const b = indices[t + 1]! * 3;
    const c = indices[t + 2]! * 3;
    const ux = p[b]! - p[a]!;
    const uy = p[b + 1]! - p[a + 1]!;
    const uz = p[b + 2]! - p[a + 2]!;
    const vx = p[c]! - p[a]!;
    const vy = p[c + 1]! - p[a + 1]!;
    const vz = p[c + 2]! - p[a + 2]!;
    for (const i of [a, b, c]) {
      const q = places[i / 3]! * 3;
      sum[q]! += uy * vz - uz * vy;
      sum[q + 1]! += uz * vx - ux * vz;
      sum[q + 2]! += ux * vy - uy * vx;
    }
  }
  normalize(sum);
  for (let v = 0; v < places.length; v++) for (let k = 0; k < 3; k++) out[v * 3 + k] = sum[places[v]! * 3 + k]!;
  return out;
}

/** A number for each vertex, the same for those at exactly one point. */
function placesOf(positions: Float32Array): Uint32Array {
  const n = positions.length / 3;
  const size = 2 ** Math.ceil(Math.log2(n * 2 + 1));
  const table = new Int32Array(size).fill(-1);
  const out = new Uint32Array(n);
  const clean = positions.map((x) => x + 0);
  const bits = new Uint32Array(clean.buffer); // +0 and −0 are one
  let count = 0;
  for (let v = 0; v < n; v++) {
    let h =
      (Math.imul(bits[v * 3]!, 0x9e3779b1) ^
        Math.imul(bits[v * 3 + 1]!, 0x85ebca77) ^
        Math.imul(bits[v * 3 + 2]!, 0xc2b2ae3d)) >>>
      0;
    for (h = (h ^ (h >>> 15)) & (size - 1); ; h = (h + 1) & (size - 1)) {
      const w = table[h]!;
      if (w < 0) {
        table[h] = v;
        out[v] = count++;
        break;
      }
      if (bits[w * 3] === bits[v * 3] && bits[w * 3 + 1] === bits[v * 3 + 1] && bits[w * 3 + 2] === bits[v * 3 + 2]) {
        out[v] = out[w]!;
        break;
      }
    }
  }
  return out;
}
