// What nodes of half the size cost and gain: the engine's tree, and the same tree with quantised boxes, met by one loop
// in turn (bench/kernel/nodes.ts).
import { execFileSync } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { type KernelExports, instantiate, layout as K } from '@variscen/engine';
import { processorSeconds } from './embree.ts';
import { type Placed, after, place, putMesh, putRays } from './kernel.ts';
import type { Emit } from './figure.ts';
import { incoherent, offHits, solids, throughPixels } from './rayScene.ts';

type Walk = (root: number, rays: number, hits: number, count: number, slots: number, inFlight: number) => void;
interface NodesExports extends KernelExports {
  quantise(root: number, out: number): number;
  quantisedEnd(): number;
  readonly closestFull: Walk;
  readonly closestQuantised: Walk;
  readonly anyFull: Walk;
  readonly anyQuantised: Walk;
}
const TURNS = Number(process.env['BENCH_TURNS'] ?? 7);
const BATCH = 65536;
const median = (x: readonly number[]): number => [...x].sort((a, b) => a - b)[x.length >> 1]!;

export async function nodesSuite(emit: Emit): Promise<void> {
  execFileSync(
    process.execPath,
    [fileURLToPath(new URL('../../scripts/build-kernel.mjs', import.meta.url)), '--nodes'],
    { stdio: ['ignore', 'ignore', 'inherit'] },
  );
  const memory = new WebAssembly.Memory({ initial: 8192, maximum: 65536, shared: true });
  const module = await WebAssembly.compile(await readFile(new URL('../../engine/dist/nodes.wasm', import.meta.url)));
  const calls = (await instantiate({ module, memory })) as NodesExports;
  const mesh = solids();
  const triangles = mesh.indices.length / 3;
  const p = place(mesh, triangles);
  putMesh(memory, p, mesh);
  const full = calls.buildMesh(p.positions, p.indices, triangles, p.records, p.scratch, p.out);
  const end = calls.buildEnd();
  const out = after(end, 0);
  const small = calls.quantise(full, out);
  emit({ name: 'full-structure', value: (end - p.out) / triangles, unit: 'bytes/triangle' });
  emit({
    name: 'quantised-structure',
    value: (calls.quantisedEnd() - out) / triangles,
    unit: 'bytes/triangle',
    ratio: (calls.quantisedEnd() - out) / (end - p.out),
    of: 'the full',
  });

  const run = (walk: Walk, root: number, rays: number, any: boolean) => {
    const bytes = any ? 4 : K.HIT.BYTES;
    const go = (i: number, n: number) =>
      walk(root, p.rays + i * K.RAY.BYTES, p.hits + i * bytes, n, p.slots, K.RAY.IN_FLIGHT);
    for (let i = 0; i < 8; i++) go(i * 2048, 2048); // as in kernel.ts: the first calls are not counted
    const { seconds } = processorSeconds(() => {
      for (let i = 0; i < rays; i += BATCH) go(i, Math.min(BATCH, rays - i));
    });
    return { seconds, hits: hitsOf(memory, p, rays, any) };
  };
  const compare = (name: string, set: Float32Array, any: boolean) => {
    const rays = putRays(memory, p, set);
    const times: number[] = [];
    const ratios: number[] = [];
    let hits = 1;
    for (let turn = 0; turn < TURNS; turn++) {
      const a = run(any ? calls.anyFull : calls.closestFull, full, rays, any);
      const b = run(any ? calls.anyQuantised : calls.closestQuantised, small, rays, any);
      times.push(b.seconds);
      ratios.push(a.seconds / b.seconds);
      hits = b.hits / a.hits;
    }
    emit({
      name: `quantised-${name}`,
      value: rays / median(times),
      unit: 'rays/s',
      ratio: median(ratios),
      of: 'full nodes',
    });
    emit({ name: `quantised-${name}-hits`, value: hits, unit: 'times the hits of full nodes' });
  };
  const far = incoherent([-10, -0.5, -10], [20, 5, 20]);
  const camera = throughPixels([0, 8, 18]);
  compare('incoherent-closest', far, false);
  compare('incoherent-any', far, true);
  compare('camera-closest', camera, false);
  putRays(memory, p, camera);
  run(calls.closestFull, full, camera.length / 8, false);
  const f = new Float32Array(memory.buffer);
  const u = new Uint32Array(memory.buffer);
  const { bounce } = offHits(mesh, camera, (i) => {
    const q = (p.hits + i * K.HIT.BYTES) >> 2;
    return { t: f[q]!, prim: u[q + K.HIT.PRIM / 4]! };
  });
  compare('bounce-closest', bounce, false);
}
function hitsOf(memory: WebAssembly.Memory, p: Placed, rays: number, any: boolean): number {
  const u = new Uint32Array(memory.buffer);
  let hits = 0;
  for (let i = 0; i < rays; i++)
    if (any ? u[(p.hits >> 2) + i] : u[(p.hits + i * K.HIT.BYTES + K.HIT.PRIM) >> 2] !== 0xffffffff) hits++;
  return hits;
}
