// Rays per second of the kernel on one thread, beside three-mesh-bvh in the same run.
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, SphereGeometry, TorusKnotGeometry, BoxGeometry, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { instantiate } from '@variscen/engine';
import { kernelModule } from '@variscen/engine/node';
import type { Figure } from './main.ts';

const RAY_BYTES = 48, HIT_BYTES = 32, IN_FLIGHT = 10;

/** About 790,000 triangles: 200 solids strewn over a floor. */
function makeScene(): { positions: Float32Array; indices: Uint32Array } {
  const positions: number[] = [], indices: number[] = [];
  const random = numbers(12345);
  for (let k = 0; k < 200; k++) {
    const g = k % 3 === 0 ? new TorusKnotGeometry(0.5, 0.15, 128, 16) : k % 3 === 1 ? new SphereGeometry(0.5, 48, 32) : new BoxGeometry(1, 1, 1, 20, 20, 20);
    const p = g.getAttribute('position').array, first = positions.length / 3, at = [random() * 20 - 10, random() * 4, random() * 20 - 10];
    for (let i = 0; i < p.length; i++) positions.push(p[i]! + at[i % 3]!);
    for (const i of g.getIndex()!.array) indices.push(i + first);
  }
  const b = positions.length / 3;
  positions.push(-12, -1, -12, 12, -1, -12, 12, -1, 12, -12, -1, 12);
  indices.push(b, b + 2, b + 1, b, b + 3, b + 2);
  return { positions: new Float32Array(positions), indices: new Uint32Array(indices) };
}
const numbers = (seed: number) => () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;

function incoherentRays(n: number): { origins: Float32Array; directions: Float32Array } {
  const random = numbers(777), origins = new Float32Array(n * 3), directions = new Float32Array(n * 3);
  for (let i = 0; i < n; i++) {
    origins.set([random() * 20 - 10, random() * 5 - 0.5, random() * 20 - 10], i * 3);
    const z = random() * 2 - 1, a = random() * Math.PI * 2, r = Math.sqrt(1 - z * z);
    directions.set([r * Math.cos(a), r * Math.sin(a), z], i * 3);
  }
  return { origins, directions };
}

export async function traceSuite(emit: (f: Omit<Figure, 'suite'>) => void): Promise<void> {
  const scene = makeScene(), triangles = scene.indices.length / 3, n = 1_000_000, { origins, directions } = incoherentRays(n);
  const memory = new WebAssembly.Memory({ initial: 16384, maximum: 65536, shared: true }), kernel = await instantiate({ module: await kernelModule(), memory });
  const align = (x: number) => Math.ceil(x / 64) * 64;
  const positions = 65536, indices = align(positions + scene.positions.byteLength + 16), records = align(indices + scene.indices.byteLength), scratch = align(records + triangles * 32), slots = align(scratch + 65536), rays = align(slots + 65536), hits = align(rays + n * RAY_BYTES), out = align(hits + n * HIT_BYTES);
  new Float32Array(memory.buffer).set(scene.positions, positions >> 2);
  new Uint32Array(memory.buffer).set(scene.indices, indices >> 2);
  const began = performance.now(), root = kernel.buildMesh(positions, indices, triangles, records, scratch, out), built = (performance.now() - began) / 1000;
  emit({ name: 'sah-build', value: triangles / built / 1e6, unit: 'million triangles/s' });
  const f = new Float32Array(memory.buffer, rays, (n * RAY_BYTES) / 4), u = new Uint32Array(memory.buffer, rays, (n * RAY_BYTES) / 4);
  for (let i = 0; i < n; i++) {
    f.set(origins.subarray(i * 3, i * 3 + 3), i * 12); f.set(directions.subarray(i * 3, i * 3 + 3), i * 12 + 4);
    f[i * 12 + 3] = 0; f[i * 12 + 7] = Infinity; u[i * 12 + 8] = 15;
  }
  const best = (work: () => void, times = 3) => Math.min(...Array.from({ length: times }, () => { const t = performance.now(); work(); return (performance.now() - t) / 1000; }));
  kernel.closest(root, rays, hits, 100_000, slots, IN_FLIGHT);
  const ours = best(() => kernel.closest(root, rays, hits, n, slots, IN_FLIGHT));
  const hit = new Uint32Array(memory.buffer, hits, (n * HIT_BYTES) / 4);
  let found = 0;
  for (let i = 0; i < n; i++) if (hit[i * 8 + 3] !== 0xffffffff) found++;
  kernel.occluded(root, rays, hits, 100_000, slots, IN_FLIGHT);
  const any = best(() => kernel.occluded(root, rays, hits, n, slots, IN_FLIGHT));

  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(scene.positions, 3)).setIndex(new BufferAttribute(scene.indices, 1));
  const bvh = new MeshBVH(geometry), ray = new Ray(new Vector3(), new Vector3()), sample = 100_000;
  let theirs = 0;
  const run = () => { theirs = 0; for (let i = 0; i < sample; i++) { ray.origin.fromArray(origins, i * 3); ray.direction.fromArray(directions, i * 3); if (bvh.raycastFirst(ray, DoubleSide)) theirs++; } };
  run();
  const reference = best(run);
  let same = 0;
  kernel.closest(root, rays, hits, sample, slots, IN_FLIGHT);
  for (let i = 0; i < sample; i++) if (hit[i * 8 + 3] !== 0xffffffff) same++;
  emit({ name: 'incoherent-closest', value: n / ours, unit: 'rays/s', ratio: n / ours / (sample / reference), of: 'three-mesh-bvh' });
  emit({ name: 'incoherent-any', value: n / any, unit: 'rays/s', ratio: n / any / (sample / reference), of: 'three-mesh-bvh, closest' });
  emit({ name: 'hits', value: found / n, unit: 'share of rays', ratio: same / theirs, of: 'three-mesh-bvh' });
}
