// What a camera's near and far planes cut through. A plane through a closed body shows its inside, so it is named, with
// the nearest distances that cut none.
import { halfHeightOf } from './cameraSettings.ts';
import type { CameraSettings } from './cameraShape.ts';
import type { Matrix, Rgb } from './vectors.ts';

/** An object along a camera's axis: metres from the eye to its nearest and farthest point. */
export interface DepthSpan {
  readonly node: number;
  readonly fromM: number;
  readonly toM: number;
}
export interface CutBody extends DepthSpan {
  /** Whether the plane at a distance goes through the body within the frame. */
  readonly cutAt: (distanceM: number) => boolean;
}
export interface PlaneCut {
  /** Nodes that the plane goes through, the nearest first. */
  readonly nodes: readonly number[];
  /** Nearest distances on either side that cut through nothing; null where there is none. */
  readonly nearerM: number | null;
  readonly fartherM: number | null;
}

/**
 * Distances along the camera's axis of a body's points placed by `world`. positions: three numbers a point, in the
 * body's space.
 */
export function depthSpan(
  camera: Pick<CameraSettings, 'matrix'>,
  world: Matrix,
  positions: ArrayLike<number>,
): { readonly fromM: number; readonly toM: number } {
  const m = camera.matrix;
  const l = Math.hypot(m[8]!, m[9]!, m[10]!) || 1;
  const back: Rgb = [m[8]! / l, m[9]! / l, m[10]! / l];
  const eye: Rgb = [m[12]!, m[13]!, m[14]!];
  // depth = −back · (world · p − eye), as one row of four
  const row = [0, 1, 2, 3].map(
    (c) => -(back[0] * world[c * 4]! + back[1] * world[c * 4 + 1]! + back[2] * world[c * 4 + 2]!),
  ) as [number, number, number, number];
  const offset = back[0] * eye[0] + back[1] * eye[1] + back[2] * eye[2];
  let from = Infinity;
  let to = -Infinity;
  for (let i = 0; i + 2 < positions.length; i += 3) {
    const d = row[0] * positions[i]! + row[1] * positions[i + 1]! + row[2] * positions[i + 2]! + row[3] + offset;
    if (d < from) from = d;
    if (d > to) to = d;
  }
  return { fromM: from, toM: to };
}

/** @param bodies closed ones that the camera may see. A plane that touches a body's end does not cut it. */
export function planeCut(distanceM: number, bodies: readonly CutBody[], lowestM = 1e-4): PlaneCut {
  const within = (d: number) => bodies.filter((s) => s.fromM < d - 1e-9 && d + 1e-9 < s.toM && s.cutAt(d));
  const nodes = within(distanceM)
    .sort((a, b) => a.fromM - b.fromM)
    .map((s) => s.node);
  if (!nodes.length) return { nodes, nearerM: null, fartherM: null };
  let nearer: number | null = distanceM;
  let farther = distanceM;
  for (let hit = within(nearer); hit.length; hit = within(nearer)) {
    nearer = Math.min(...hit.map((s) => s.fromM));
    if (nearer < lowestM) {
      nearer = null;
      break;
    }
  }
  for (let hit = within(farther); hit.length; hit = within(farther)) farther = Math.max(...hit.map((s) => s.toM));
  return { nodes, nearerM: nearer, fartherM: farther };
}

/**
 * Whether the plane at a distance shows a body's inside: whether its section with one of the triangles lies at least
 * partly in the frame. A plane that lies wholly inside a body, as that of a camera in a closed room does, cuts nothing
 * open. positions: three numbers a point, in the body's space.
 */
export function cutsInFrame(
  c: CameraSettings,
  world: Matrix,
  positions: ArrayLike<number>,
  indices: ArrayLike<number>,
  distanceM: number,
): boolean {
  const m = c.matrix;
  const unit = (k: number): Rgb => {
    const l = Math.hypot(m[k]!, m[k + 1]!, m[k + 2]!) || 1;
    return [m[k]! / l, m[k + 1]! / l, m[k + 2]! / l];
  };
  const right = unit(0);
  const up = unit(4);
  const back = unit(8);
  const eye: Rgb = [m[12]!, m[13]!, m[14]!];
  const row = (a: Rgb) =>
    [0, 1, 2, 3].map(
      (k) =>
        a[0] * world[k * 4]! +
        a[1] * world[k * 4 + 1]! +
        a[2] * world[k * 4 + 2]! -
        (k === 3 ? a[0] * eye[0] + a[1] * eye[1] + a[2] * eye[2] : 0),
    ) as unknown as readonly [number, number, number, number];
  const rx = row(right);
  const ry = row(up);
  const rz = row(back);
  const along = (r: readonly [number, number, number, number], i: number) =>
    r[0] * positions[i * 3]! + r[1] * positions[i * 3 + 1]! + r[2] * positions[i * 3 + 2]! + r[3];
  const halfY = halfHeightOf(c) * (c.projection === 'orthographic' ? 1 : distanceM);
  const halfX = (halfY * c.widthPx) / c.heightPx;
  const midX = 2 * (c.shiftX ?? 0) * halfX;
  const midY = 2 * (c.shiftY ?? 0) * halfY;
  for (let t = 0; t + 2 < indices.length; t += 3) {
    const v = [indices[t]!, indices[t + 1]!, indices[t + 2]!] as const;
    const d = [-along(rz, v[0]) - distanceM, -along(rz, v[1]) - distanceM, -along(rz, v[2]) - distanceM] as const;
    if ((d[0] > 0 && d[1] > 0 && d[2] > 0) || (d[0] < 0 && d[1] < 0 && d[2] < 0)) continue;
    const ends: [number, number][] = [];
    for (let e = 0; e < 3; e++) {
      const a = d[e]!;
      const b = d[(e + 1) % 3]!;
      const i = v[e]!;
      const j = v[(e + 1) % 3]!;
      if (a === b || a * b > 0) continue;
      const k = a / (a - b);
      ends.push([along(rx, i) * (1 - k) + along(rx, j) * k - midX, along(ry, i) * (1 - k) + along(ry, j) * k - midY]);
    }
    if (ends.length > 1 && segmentInBox(ends[0]!, ends[1]!, halfX, halfY)) return true;
  }
  return false;
}
/** Liang and Barsky's clipping of a line by a box about the origin. */
function segmentInBox(
  a: readonly [number, number],
  b: readonly [number, number],
  halfX: number,
  halfY: number,
): boolean {
  let from = 0;
  let to = 1;
  for (const [at, by, half] of [
    [a[0], b[0] - a[0], halfX],
    [a[1], b[1] - a[1], halfY],
  ] as const) {
    if (by === 0) {
      if (Math.abs(at) > half) return false;
      continue;
    }
    const p = (-half - at) / by;
    const q = (half - at) / by;
    from = Math.max(from, Math.min(p, q));
    to = Math.min(to, Math.max(p, q));
  }
  return from <= to;
}

/**
 * Whether a mesh encloses a body: every edge is shared by exactly two triangles that run along it in opposite
 * directions. Vertices at the same place are one.
 */
export function isClosed(positions: Float32Array, indices: ArrayLike<number>): boolean {
  const size = positions.length / 3;
  const count = indices.length;
  if (count < 12 || (count / 3) % 2) return false; // a closed mesh has three edges for every two triangles
  // an edge as its lower and higher vertex, and one bit for the way it is run along; sorted, the two runs of an edge
  // lie side by side
  const edges = new Float64Array(count);
  for (let k = 0; k + 2 < count; k += 3)
    for (let e = 0; e < 3; e++) {
      const a = indices[k + e]!;
      const b = indices[k + ((e + 1) % 3)]!;
      edges[k + e] = a < b ? (a * size + b) * 2 : (b * size + a) * 2 + 1;
    }
  edges.sort();
  const open: number[] = [];
  for (let i = 0; i < count;) {
    const edge = Math.floor(edges[i]! / 2);
    let n = 0;
    let forward = 0;
    while (i + n < count && Math.floor(edges[i + n]! / 2) === edge) {
      if (edges[i + n]! % 2 === 0) forward++;
      n++;
    }
    if (n === 1) open.push(edges[i]!);
    else if (n !== 2 || forward !== 1) return false;
    i += n;
  }
  if (!open.length) return true;
  // seams: edges that end where others begin, at vertices kept apart. Only theirs are welded
  const at = new Map<string, number>();
  const place = (v: number): number => {
    const key = `${positions[v * 3]!} ${positions[v * 3 + 1]!} ${positions[v * 3 + 2]!}`;
    let n = at.get(key);
    if (n === undefined) at.set(key, (n = at.size));
    return n;
  };
  const runs = new Map<number, number>();
  for (const packed of open) {
    const edge = Math.floor(packed / 2);
    const low = Math.floor(edge / size);
    const high = edge % size;
    const [a, b] = packed % 2 ? [place(high), place(low)] : [place(low), place(high)];
    if (a === b) continue;
    const key = a < b ? a * size + b : b * size + a;
    const next = (runs.get(key) ?? 0) + (a < b ? 1 : -1);
    if (next === 0) runs.delete(key);
    else if (Math.abs(next) > 1) return false;
    else runs.set(key, next);
  }
  return runs.size === 0;
}
