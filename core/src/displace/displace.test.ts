// Splitting and displacing: no cracks, no edge too long, heights where the map says.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Geometry } from '../scene/index.ts';
import { type DisplaceOptions, type HeightMap, displace, heightAt, subdivide } from './index.ts';

const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
const placed = (x: number, y: number, z: number, scale = 1) => [
  scale,
  0,
  0,
  0,
  0,
  scale,
  0,
  0,
  0,
  0,
  scale,
  0,
  x,
  y,
  z,
  1,
];
const use: HeightMap['use'] = { uvSet: 0, wrapS: 'repeat', wrapT: 'repeat', matrix: [1, 0, 0, 0, 1, 0] };
const map = (width: number, height: number, red: (x: number, y: number) => number): HeightMap => ({
  width,
  height,
  data: Uint8Array.from({ length: width * height * 4 }, (_, i) =>
    i % 4 === 0 ? red((i >> 2) % width, Math.floor((i >> 2) / width)) : 255,
  ),
  use,
});
const white = map(2, 2, () => 255);
const options = (more: Partial<DisplaceOptions> = {}): DisplaceOptions => ({
  placements: [IDENTITY],
  eye: [0, 5, 0],
  pixelsPerM: 500,
  parallel: false,
  edgePx: 20,
  farM: 100,
  maxTriangles: 1e6,
  map: white,
  heightM: 0.1,
  ...more,
});
/** 2 × 2 m, facing +Y. */
const plane: Geometry = {
  positions: new Float32Array([-1, 0, -1, -1, 0, 1, 1, 0, 1, 1, 0, -1]),
  normals: new Float32Array([0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0]),
  uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]),
  indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
};
/** Cube whose six sides have corners, normals and texture coordinates of their own. */
const cube: Geometry = (() => {
  const positions: number[] = [];
  const normals: number[] = [];
  const uv: number[] = [];
  const indices: number[] = [];
  for (let axis = 0; axis < 3; axis++)
    for (const sign of [-1, 1]) {
      const first = positions.length / 3;
      for (const [a, b] of [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ] as const) {
        const p = [0, 0, 0];
        const n = [0, 0, 0];
        p[axis] = sign;
        p[(axis + 1) % 3] = a * sign;
        p[(axis + 2) % 3] = b;
        n[axis] = sign;
        positions.push(...p);
        normals.push(...n);
        uv.push((a + 1) / 2, (b + 1) / 2);
      }
      indices.push(first, first + 1, first + 2, first, first + 2, first + 3);
    }
  return {
    positions: new Float32Array(positions),
    normals: new Float32Array(normals),
    uv0: new Float32Array(uv),
    indices: new Uint32Array(indices),
  };
})();
/** How many triangles have each edge, by the points of its ends. */
function edgeCounts(g: { positions: Float32Array; indices: Uint32Array }): number[] {
  const at = (i: number) =>
    Array.from(g.positions.subarray(i * 3, i * 3 + 3))
      .map((x) => x + 0)
      .join();
  const counts = new Map<string, number>();
  for (let t = 0; t < g.indices.length; t += 3)
    for (let e = 0; e < 3; e++) {
      const key = [at(g.indices[t + e]!), at(g.indices[t + ((e + 1) % 3)]!)].sort().join(' ');
      counts.set(key, (counts.get(key) ?? 0) + 1);
    }
  return [...counts.values()];
}

describe('splitting', () => {
  it('leaves no edge that looks longer than wanted, and stops there', () => {
    const s = subdivide(plane.positions, plane.indices, options());
    const longest = Math.max(
      ...Array.from({ length: s.indices.length }, (_, i) => {
        const t = i - (i % 3);
        const a = s.indices[i]! * 3;
        const b = s.indices[t + ((i + 1) % 3)]! * 3;
        return Math.hypot(s.positions[a]! - s.positions[b]!, s.positions[a + 2]! - s.positions[b + 2]!);
      }),
    );
    expect((longest * 500) / 5).toBeLessThanOrEqual(20.5);
    expect((longest * 500) / 5).toBeGreaterThan(8);
    expect(s.limited).toBe(false);
  });
  it('is finer near the eye than far away', () => {
    const s = subdivide(
      new Float32Array([-1, 0, -40, -1, 0, 0, 1, 0, 0, 1, 0, -40]),
      plane.indices,
      options({ eye: [0, 1, 0] }),
    );
    const near = s.positions.filter((z, i) => i % 3 === 2 && z > -10).length;
    const far = s.positions.filter((z, i) => i % 3 === 2 && z < -30).length;
    expect(near).toBeGreaterThan(far * 10);
  });
  it('leaves what is too far away as it is', () => {
    expect(subdivide(plane.positions, plane.indices, options({ farM: 2 })).indices.length).toBe(6);
  });
  it('stops before the limit of triangles, and says so', () => {
    const s = subdivide(plane.positions, plane.indices, options({ edgePx: 1, maxTriangles: 5000 }));
    expect([s.limited, s.indices.length / 3 <= 5000, s.indices.length / 3 > 1000]).toEqual([true, true, true]);
  });
  it('counts an edge as long as it looks in its largest placement', () => {
    const near = subdivide(
      plane.positions,
      plane.indices,
      options({ placements: [placed(0, -50, 0), placed(0, 0, 0)] }),
    );
    const alone = subdivide(plane.positions, plane.indices, options());
    expect(near.indices.length).toBeGreaterThanOrEqual(alone.indices.length);
  });
  it('opens no cracks, wherever the eye is', () =>
    fc.assert(
      fc.property(
        fc.tuple(
          fc.double({ min: -6, max: 6, noNaN: true }),
          fc.double({ min: -6, max: 6, noNaN: true }),
          fc.double({ min: -6, max: 6, noNaN: true }),
        ),
        fc.integer({ min: 30, max: 200 }),
        (eye, edgePx) => {
          const made = displace(
            cube,
            options({
              eye,
              edgePx,
              maxTriangles: 20_000,
              map: map(7, 5, (x, y) => (x * 37 + y * 91) % 256),
              heightM: 0.3,
            }),
          )!;
          expect(new Set(edgeCounts(made.geometry))).toEqual(new Set([2]));
        },
      ),
      { numRuns: 25 },
    ));
});

describe('displacement', () => {
  it('moves white by its height along the normal, in metres whatever the scale of the object', () => {
    for (const scale of [1, 4]) {
      const { geometry } = displace(plane, options({ placements: [placed(0, 0, 0, scale)] }))!;
      for (let i = 1; i < geometry.positions.length; i += 3) expect(geometry.positions[i]! * scale).toBeCloseTo(0.1, 5);
      expect([...geometry.normals!.subarray(0, 3)].map((x) => Number(x.toFixed(4)))).toEqual([0, 1, 0]);
    }
  });
  it('follows the map, and its slope turns the normals', () => {
    const ramp = map(256, 1, (x) => x);
    const { geometry: g } = displace(
      plane,
      options({ map: { ...ramp, use: { ...use, wrapS: 'clamp' } }, heightM: 0.4 }),
    )!;
    for (let v = 0; v < g.positions.length / 3; v++)
      expect(g.positions[v * 3 + 1]!).toBeCloseTo(
        0.4 * heightAt({ ...ramp, use: { ...use, wrapS: 'clamp' } }, g.uv0![v * 2]!, 0),
        5,
      );
    const inside = Array.from({ length: g.positions.length / 3 }, (_, v) => v).find(
      (v) => Math.abs(g.positions[v * 3]!) < 0.1 && Math.abs(g.positions[v * 3 + 2]!) < 0.1,
    )!; // 0.4 m over 2 m: a slope of 0.2
    expect(g.normals![inside * 3]! / g.normals![inside * 3 + 1]!).toBeCloseTo(-0.2, 2);
  });
  it('keeps creases of what it displaces, and closes seams', () => {
    const { geometry: g } = displace(cube, options({ edgePx: 100, eye: [0, 0, 8] }))!;
    const sides = new Set(
      Array.from({ length: g.normals!.length / 3 }, (_, v) =>
        [0, 1, 2].map((k) => Math.round(g.normals![v * 3 + k]! * 10) / 10 + 0).join(),
      ),
    );
    expect(sides.size).toBeGreaterThanOrEqual(6);
    expect(new Set(edgeCounts(g))).toEqual(new Set([2]));
  });
  it('is not for a mesh without coordinates for the map', () => {
    const { uv0: _, ...bare } = plane;
    expect(displace(bare, options())).toBeUndefined();
  });
});
