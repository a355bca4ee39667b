// Rays that go together meet what each of them would meet alone, to the bit, however they are bundled; and no tree
// hides what a ray meets.
import { beforeAll, describe, expect, it } from 'vitest';
import fc from 'fast-check';
import * as K from '../kernel/layout/index.ts';
import { type KernelExports, instantiate } from '../host/kernelThread.ts';
import { kernelModule } from '../host/node/index.ts';
import { numbers, soup } from './soup.ts';

const AT = {
  positions: K.MEMORY.FIRST_ADDRESS,
  indices: 200_000,
  records: 300_000,
  scratch: 500_000,
  slots: 600_000,
  rays: 700_000,
  hits: 900_000,
  other: 1_000_000,
  instances: 1_100_000,
  out: 1_200_000,
};
const NONE = 0xffffffff;
let memory: WebAssembly.Memory, kernel: KernelExports, f: Float32Array, u: Uint32Array;

/** Builds over triangles (9 numbers each). */
function build(triangles: readonly number[]): number {
  f.set(triangles, AT.positions >> 2);
  u.set(
    Array.from({ length: triangles.length / 3 }, (_, i) => i),
    AT.indices >> 2,
  );
  return kernel.buildMesh(AT.positions, AT.indices, triangles.length / 9, AT.records, AT.scratch, AT.out);
}
/** Instances of a mesh, turned and scaled; every third is hidden from rays of MASK_CAMERA. Returns the root of all. */
function scatter(root: number, count: number, random: () => number): number {
  const top = (kernel.buildEnd() + 63) & ~63;
  for (let i = 0; i < count; i++) {
    const q = (AT.instances + i * K.INST.BYTES) >> 2;
    const a = random() * 6.3;
    const s = 0.3 + random() * 0.5;
    u[q + K.INST.ROOT / 4] = root;
    u[q + K.INST.MASK / 4] = i % 3 ? K.MASK.ALL : K.MASK.ALL & ~K.MASK.CAMERA;
    f.set(
      [
        Math.cos(a) * s,
        0,
        Math.sin(a) * s,
        0,
        s,
        0,
        -Math.sin(a) * s,
        0,
        Math.cos(a) * s,
        random() * 8,
        random() * 8,
        random() * 8,
      ],
      q + K.INST.FORWARD / 4,
    );
  }
  return kernel.buildInstances(AT.instances, count, AT.records, AT.scratch, top);
}
type Kind = 'camera' | 'orthographic' | 'upright' | 'anywhere';
function putRays(kind: Kind, n: number, random: () => number): void {
  const eye = [random() * 14 - 2, random() * 14 - 2, 22];
  const one = [random() - 0.5, random() - 0.5, random() - 0.5];
  const side = Math.ceil(Math.sqrt(n));
  for (let i = 0; i < n; i++) {
    const x = (i % side) / side;
    const y = Math.floor(i / side) / side;
    const q = (AT.rays + i * K.RAY.BYTES) >> 2;
    const inside = [random() * 10, random() * 10, random() * 10];
    let o = inside;
    let d: number[];
    if (kind === 'camera') [o, d] = [eye, [x - 0.5, y - 0.5, -1]];
    else if (kind === 'orthographic') d = one;
    else if (kind === 'upright') d = [0, (i >> 5) & 1 ? 1 : -1, -0];
    else d = [random() - 0.5, random() - 0.5, random() - 0.5];
    f.set([...o, random() < 0.3 ? 0.5 : 0, ...d, random() < 0.3 ? random() * 20 : Infinity], q);
    u[q + K.RAY.MASK / 4] = random() < 0.5 ? K.MASK.CAMERA : K.MASK.SHADOW;
    u[q + K.RAY.SEED / 4] = i;
  }
}
const found = (at: number, n: number) =>
  Array.from({ length: n }, (_, i) => {
    const q = (at + i * K.HIT.BYTES) >> 2;
    return u[q + K.HIT.PRIM / 4] === NONE
      ? 'nothing'
      : `${f[q]} ${f[q + 1]} ${f[q + 2]} ${u[q + K.HIT.PRIM / 4]} ${u[q + K.HIT.INST / 4]} ${u[q + K.HIT.BLOCK / 4]}`;
  });
const blocked = (at: number, n: number) => Array.from({ length: n }, (_, i) => u[(at >> 2) + i] !== 0);

describe.each([false, true])('rays together (assertions %s)', (debug) => {
  beforeAll(async () => {
    memory = new WebAssembly.Memory({ initial: 64, maximum: 65536, shared: true });
    kernel = await instantiate({ module: await kernelModule(debug), memory });
    f = new Float32Array(memory.buffer);
    u = new Uint32Array(memory.buffer);
  });

  it('meet what each meets alone, in meshes and in instances that some of them may not see', () => {
    let hits = 0;
    let all = 0;
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 2 ** 31 }),
        fc.integer({ min: 1, max: 75 }),
        fc.integer({ min: 1, max: 120 }),
        fc.constantFrom<Kind>('camera', 'orthographic', 'upright', 'anywhere'),
        fc.integer({ min: 0, max: 30 }),
        (seed, n, triangles, kind, instances) => {
          const random = numbers(seed);
          let root = build(soup(triangles, 4, random));
          if (instances) root = scatter(root, instances, random);
          putRays(kind, n, random);
          kernel.closest(root, AT.rays, AT.hits, n, AT.slots, K.RAY.IN_FLIGHT);
          kernel.closestTogether(root, AT.rays, AT.other, n, AT.slots, K.RAY.IN_FLIGHT);
          const alone = found(AT.hits, n);
          expect(found(AT.other, n)).toEqual(alone);
          kernel.occluded(root, AT.rays, AT.hits, n, AT.slots, K.RAY.IN_FLIGHT);
          kernel.occludedTogether(root, AT.rays, AT.other, n, AT.slots, K.RAY.IN_FLIGHT);
          expect(blocked(AT.other, n)).toEqual(blocked(AT.hits, n));
          expect(blocked(AT.hits, n)).toEqual(alone.map((h) => h !== 'nothing'));
          hits += alone.filter((h) => h !== 'nothing').length;
          all += n;
        },
      ),
      { numRuns: 300, seed: 4 },
    );
    expect(hits / all).toBeGreaterThan(0.1); // so that hits were compared, not misses alone
    expect(hits / all).toBeLessThan(0.9);
  });

  it('leave nothing behind them unwritten and write nothing beyond: seventeen rays give seventeen answers', () => {
    const root = build(soup(60, 4, numbers(3)));
    putRays('camera', 17, numbers(9));
    u.fill(0xabababab, AT.other >> 2, (AT.other >> 2) + (18 * K.HIT.BYTES) / 4);
    kernel.closestTogether(root, AT.rays, AT.other, 17, AT.slots, K.RAY.IN_FLIGHT);
    expect(u[(AT.other + 16 * K.HIT.BYTES + K.HIT.INST) >> 2]).not.toBe(0xabababab);
    expect(u[(AT.other + 17 * K.HIT.BYTES + K.HIT.INST) >> 2]).toBe(0xabababab);
    u.fill(0xabababab, AT.other >> 2, (AT.other >> 2) + 18);
    kernel.occludedTogether(root, AT.rays, AT.other, 17, AT.slots, K.RAY.IN_FLIGHT);
    expect([...u.subarray((AT.other >> 2) + 15, (AT.other >> 2) + 18)].map((x) => x === 0xabababab)).toEqual([
      false,
      false,
      true,
    ]);
  });

  // Two triangles that share an edge differ there by rounding; a box must not keep the nearer one away.
  it('find the nearest of all triangles to the bit, at the edges that triangles share', () => {
    const random = numbers(11);
    const n = 1500;
    const ball: number[] = [];
    const p = (i: number, j: number) => {
      const a = (i / 16) * Math.PI * 2;
      const b = (j / 10) * Math.PI;
      return [50 + Math.cos(a) * Math.sin(b) * 3, Math.cos(b) * 3 - 70, Math.sin(a) * Math.sin(b) * 3];
    };
    for (let i = 0; i < 16; i++)
      for (let j = 0; j < 10; j++)
        ball.push(...p(i, j), ...p(i + 1, j), ...p(i + 1, j + 1), ...p(i, j), ...p(i + 1, j + 1), ...p(i, j + 1));
    for (let i = 0; i < n; i++) {
      // at points on edges, most of them almost along the triangle
      const t = Math.floor((random() * ball.length) / 9) * 9;
      const s = random();
      const corner = (j: number) => ball.slice(t + j * 3, t + j * 3 + 3);
      const [a, b, c] = [corner(0), corner(1), corner(2)];
      const to = a.map((x, k) => x * s + b[k]! * (1 - s));
      const v = random() - 0.5;
      const w = random() - 0.5;
      const out = 10 ** (-3 * random());
      const d = a.map((x, k) => v * (b[k]! - x) + w * (c[k]! - x) - out * (x - [50, -70, 0][k]!));
      const l = Math.hypot(...d);
      f.set(
        [...to.map((x, k) => x - (d[k]! / l) * (5 + random() * 10)), 0, ...d.map((x) => x / l), Infinity],
        (AT.rays + i * K.RAY.BYTES) >> 2,
      );
      u[(AT.rays + i * K.RAY.BYTES + K.RAY.MASK) >> 2] = K.MASK.ALL;
    }
    const nearest = new Float32Array(n).fill(Infinity);
    const distances = () =>
      Array.from({ length: n }, (_, i) => {
        const q = (AT.hits + i * K.HIT.BYTES) >> 2;
        return u[q + K.HIT.PRIM / 4] === NONE ? Infinity : f[q]!;
      });
    for (let t = 0; t < ball.length; t += 9) {
      kernel.closest(build(ball.slice(t, t + 9)), AT.rays, AT.hits, n, AT.slots, K.RAY.IN_FLIGHT);
      distances().forEach((d, i) => {
        nearest[i] = Math.min(nearest[i]!, d);
      });
    }
    const root = build(ball);
    for (const trace of [kernel.closest, kernel.closestTogether]) {
      trace(root, AT.rays, AT.hits, n, AT.slots, K.RAY.IN_FLIGHT);
      expect(distances().filter((d, i) => d !== nearest[i])).toEqual([]);
    }
    expect(nearest.filter((d) => d < Infinity).length).toBeGreaterThan(n * 0.5);
  });
});
