// How far a thing can go straight down until it touches what lies below, and no further. Exact for triangles: along the
// vertical two meshes touch first where a corner of one meets a face of the other, or where two edges cross; all three
// are looked at. What already stands in the thing, or above it, does not hold it up. Depth pictures from above and
// below would be simpler, but their gaps are only as right as a pixel is small beside a slope.

/** Corners in the world, three numbers each; three indices a triangle. Metres, Y up. */
export interface Solid {
  readonly positions: ArrayLike<number>;
  readonly indices: ArrayLike<number>;
}
/** Surfaces that lie so close count as touching: what stands on a table stays there, metres. */
const TOUCH_M = 1e-4;
/** Cells a side of the grid over the thing's ground plan. */
const CELLS = 64;

/**
 * Metres down, 0 where it touches already; undefined where nothing lies below. @throws DOMException where the signal
 * says stop
 */
export function dropHeight(thing: Solid, below: readonly Solid[], signal?: AbortSignal): number | undefined {
  const lo = [Infinity, Infinity, Infinity];
  const hi = [-Infinity, -Infinity, -Infinity];
  const p = thing.positions;
  for (let i = 0; i < p.length; i += 3)
    for (let k = 0; k < 3; k++) {
      lo[k] = Math.min(lo[k]!, p[i + k]!);
      hi[k] = Math.max(hi[k]!, p[i + k]!);
    }
  if (!(lo[0]! <= hi[0]!)) return undefined;
  const wide = Math.max(hi[0]! - lo[0]!, 1e-9);
  const deep = Math.max(hi[2]! - lo[2]!, 1e-9);
  const column = (x: number) => Math.min(CELLS - 1, Math.max(0, Math.floor(((x - lo[0]!) / wide) * CELLS)));
  const row = (z: number) => Math.min(CELLS - 1, Math.max(0, Math.floor(((z - lo[2]!) / deep) * CELLS)));
  const cells: number[][] = Array.from({ length: CELLS * CELLS }, () => []);
  for (let t = 0; t < thing.indices.length; t += 3) {
    const [a, b, c] = cornersOf(thing, t);
    for (let z = row(Math.min(a[2], b[2], c[2])); z <= row(Math.max(a[2], b[2], c[2])); z++)
      for (let x = column(Math.min(a[0], b[0], c[0])); x <= column(Math.max(a[0], b[0], c[0])); x++)
        cells[z * CELLS + x]!.push(t);
  }
  let best = Infinity;
  const seen = new Int32Array(thing.indices.length / 3).fill(-1);
  let stamp = 0;
  for (const s of below)
    for (let t = 0; t < s.indices.length; t += 3) {
      if (t % 30_000 === 0) signal?.throwIfAborted();
      const lower = cornersOf(s, t);
      const [a, b, c] = lower;
      const x0 = Math.min(a[0], b[0], c[0]);
      const x1 = Math.max(a[0], b[0], c[0]);
      const z0 = Math.min(a[2], b[2], c[2]);
      const z1 = Math.max(a[2], b[2], c[2]);
      if (
        x1 < lo[0]! ||
        x0 > hi[0]! ||
        z1 < lo[2]! ||
        z0 > hi[2]! ||
        Math.min(a[1], b[1], c[1]) > hi[1]! ||
        Math.max(a[1], b[1], c[1]) < lo[1]! - best
      )
        continue;
      stamp++;
      for (let z = row(z0); z <= row(z1); z++)
        for (let x = column(x0); x <= column(x1); x++)
          for (const u of cells[z * CELLS + x]!) {
            if (seen[u / 3] === stamp) continue;
            seen[u / 3] = stamp;
            best = Math.min(best, gap(cornersOf(thing, u), lower));
          }
    }
  return best === Infinity ? undefined : Math.max(0, best);
}

type Point = readonly [number, number, number];
type Triangle = readonly [Point, Point, Point];
const cornersOf = (s: Solid, t: number): Triangle =>
  [0, 1, 2].map((k) => {
    const i = s.indices[t + k]! * 3;
    return [s.positions[i]!, s.positions[i + 1]!, s.positions[i + 2]!] as const;
  }) as unknown as Triangle;

/**
 * The least height of the upper triangle over the lower one where their plans overlap and it is over it; Infinity where
 * it never is.
 */
function gap(upper: Triangle, lower: Triangle): number {
  let best = Infinity;
  const take = (h: number) => {
    if (h >= -TOUCH_M && h < best) best = h;
  };
  for (const v of upper) {
    const y = heightIn(lower, v[0], v[2]);
    if (y !== undefined) take(v[1] - y);
  }
  for (const v of lower) {
    const y = heightIn(upper, v[0], v[2]);
    if (y !== undefined) take(y - v[1]);
  }
  for (let i = 0; i < 3; i++)
    for (let j = 0; j < 3; j++) {
      const h = crossing(upper[i]!, upper[(i + 1) % 3]!, lower[j]!, lower[(j + 1) % 3]!);
      if (h !== undefined) take(h);
    }
  return best;
}
/** Height of a triangle over a point of the ground plan; undefined outside of it and where it stands upright. */
function heightIn([a, b, c]: Triangle, x: number, z: number): number | undefined {
  const d = (b[2] - c[2]) * (a[0] - c[0]) + (c[0] - b[0]) * (a[2] - c[2]);
  if (Math.abs(d) < 1e-18) return undefined;
  const u = ((b[2] - c[2]) * (x - c[0]) + (c[0] - b[0]) * (z - c[2])) / d;
  const v = ((c[2] - a[2]) * (x - c[0]) + (a[0] - c[0]) * (z - c[2])) / d;
  const w = 1 - u - v;
  return u < -1e-9 || v < -1e-9 || w < -1e-9 ? undefined : u * a[1] + v * b[1] + w * c[1];
}
/** How far the edge p–q is over the edge r–s where their plans cross. */
function crossing(p: Point, q: Point, r: Point, s: Point): number | undefined {
  const ax = q[0] - p[0];
  const az = q[2] - p[2];
  const bx = s[0] - r[0];
  const bz = s[2] - r[2];
  const d = ax * bz - az * bx;
  if (Math.abs(d) < 1e-18) return undefined;
  const cx = r[0] - p[0];
  const cz = r[2] - p[2];
  const t = (cx * bz - cz * bx) / d;
  const u = (cx * az - cz * ax) / d;
  return t < 0 || t > 1 || u < 0 || u > 1 ? undefined : p[1] + t * (q[1] - p[1]) - (r[1] + u * (s[1] - r[1]));
}
