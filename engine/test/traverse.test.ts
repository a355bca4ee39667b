// Traversal against a search through every triangle, and the numbers behind the pictures.
import { beforeAll, describe, expect, it } from 'vitest';
import * as K from '../kernel/layout/index.ts';
import { type KernelExports, instantiate } from '../host/kernelThread.ts';
import { kernelModule } from '../host/node/index.ts';
import { numbers, soup } from './soup.ts';

const MEMORY = {
  positions: K.MEMORY.FIRST_ADDRESS,
  indices: 200_000,
  records: 300_000,
  scratch: 500_000,
  slots: 600_000,
  rays: 700_000,
  hits: 900_000,
  out: 1_200_000,
};
let memory: WebAssembly.Memory, kernel: KernelExports;

describe.each([false, true])('the kernel (assertions %s)', (debug) => {
  beforeAll(async () => {
    memory = new WebAssembly.Memory({ initial: 64, maximum: 65536, shared: true });
    kernel = await instantiate({ module: await kernelModule(debug), memory });
  });

  function built(triangles: number, seed: number): { positions: Float32Array; root: number } {
    const positions = Float32Array.from(soup(triangles, 1.5, numbers(seed)));
    new Float32Array(memory.buffer).set(positions, MEMORY.positions >> 2);
    new Uint32Array(memory.buffer).set(
      Uint32Array.from({ length: triangles * 3 }, (_, i) => i),
      MEMORY.indices >> 2,
    );
    return {
      positions,
      root: kernel.buildMesh(MEMORY.positions, MEMORY.indices, triangles, MEMORY.records, MEMORY.scratch, MEMORY.out),
    };
  }
  function rays(n: number, seed: number, axisAligned: boolean): Float32Array {
    const random = numbers(seed);
    const f = new Float32Array(memory.buffer, MEMORY.rays, n * 12);
    const u = new Uint32Array(memory.buffer, MEMORY.rays, n * 12);
    for (let i = 0; i < n; i++) {
      const d = axisAligned
        ? [
            [1, 0, 0],
            [0, -1, 0],
            [0, 0, 1],
          ][i % 3]!
        : [random() - 0.5, random() - 0.5, random() - 0.5];
      f.set([random() * 14 - 2, random() * 14 - 2, random() * 14 - 2, 0, ...d, Infinity], i * 12);
      u[i * 12 + 8] = K.MASK.ALL;
    }
    return f.slice();
  }
  /** Nearest hit in double precision by Möller–Trumbore over all triangles. */
  function nearest(p: Float32Array, r: Float32Array, i: number): number {
    const [o, d] = [r.subarray(i * 12, i * 12 + 3), r.subarray(i * 12 + 4, i * 12 + 7)];
    const cross = (a: ArrayLike<number>, b: ArrayLike<number>) => [
      a[1]! * b[2]! - a[2]! * b[1]!,
      a[2]! * b[0]! - a[0]! * b[2]!,
      a[0]! * b[1]! - a[1]! * b[0]!,
    ];
    const dot = (a: ArrayLike<number>, b: ArrayLike<number>) => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;
    let best = Infinity;
    for (let t = 0; t < p.length; t += 9) {
      const e1 = [0, 1, 2].map((k) => p[t + 3 + k]! - p[t + k]!);
      const e2 = [0, 1, 2].map((k) => p[t + 6 + k]! - p[t + k]!);
      const h = cross(d, e2);
      const det = dot(e1, h);
      const s = [0, 1, 2].map((k) => o[k]! - p[t + k]!);
      const u = dot(s, h) / det;
      const q = cross(s, e1);
      const v = dot(d, q) / det;
      const at = dot(e2, q) / det;
      if (u >= 0 && v >= 0 && u + v <= 1 && at > 0 && at < best) best = at;
    }
    return best;
  }

  it.each([
    [1, false],
    [3, false],
    [400, false],
    [400, true],
  ])('finds the nearest of %i triangles (along the axes: %s)', (triangles, axisAligned) => {
    const n = 600;
    const { positions, root } = built(triangles, triangles);
    const r = rays(n, 99, axisAligned);
    kernel.closest(root, MEMORY.rays, MEMORY.hits, n, MEMORY.slots, K.RAY.IN_FLIGHT);
    kernel.occluded(root, MEMORY.rays, MEMORY.hits + n * K.HIT.BYTES, n, MEMORY.slots, K.RAY.IN_FLIGHT);
    const f = new Float32Array(memory.buffer, MEMORY.hits, n * 8);
    const u = new Uint32Array(memory.buffer, MEMORY.hits, n * 8);
    const any = new Int32Array(memory.buffer, MEMORY.hits + n * K.HIT.BYTES, n);
    let found = 0;
    let apart = 0;
    for (let i = 0; i < n; i++) {
      const truth = nearest(positions, r, i);
      const hit = u[i * 8 + 3] !== 0xffffffff;
      if (hit) found++;
      // rays that graze an edge may round either way
      if (hit !== truth < Infinity || (hit && Math.abs(f[i * 8]! - truth) > 1e-3 * Math.max(1, truth))) apart++;
      expect(any[i] === 1).toBe(hit);
    }
    expect(apart).toBeLessThanOrEqual(2);
    if (triangles === 400) expect(found).toBeGreaterThan(50);
  });

  it('gives the same hits however many rays are in flight', () => {
    const n = 500;
    const { root } = built(300, 5);
    rays(n, 7, false);
    const run = (inFlight: number) => {
      kernel.closest(root, MEMORY.rays, MEMORY.hits, n, MEMORY.slots, inFlight);
      return new Float32Array(memory.buffer, MEMORY.hits, n * 8).slice().filter((_, i) => i % 8 < 3);
    };
    expect(run(1)).toEqual(run(K.RAY.IN_FLIGHT));
  });

  it('random points fill the square evenly: 64 samples lie one in each of 64 cells', () => {
    for (const [seed, pair] of [
      [1, 0],
      [77, 3],
      [123456, 9],
    ] as const) {
      const cells = new Set<number>();
      const lines = new Set<number>();
      for (let s = 0; s < 64; s++) {
        kernel.random3At(seed, s, pair, MEMORY.out);
        const [x = 0, y = 0] = new Float32Array(memory.buffer, MEMORY.out, 2);
        expect(x >= 0 && x < 1 && y >= 0 && y < 1).toBe(true);
        cells.add(Math.floor(x * 8) * 8 + Math.floor(y * 8));
        lines.add(Math.floor(x * 64));
      }
      expect([cells.size, lines.size]).toEqual([64, 64]);
    }
  });
});
