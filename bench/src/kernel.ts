// The kernel alone on one thread, with a mesh or instances of one in its memory.
import { type KernelExports, instantiate, layout as K } from '@variscen/engine';
import { kernelModule } from '@variscen/engine/node';
import { processorSeconds } from './embree.ts';
import { type Mesh, RAYS } from './rayScene.ts';

const BATCH = 65536;

export interface Kernel {
  readonly memory: WebAssembly.Memory;
  readonly calls: KernelExports;
}
export interface Loaded {
  readonly buildSeconds: number;
  readonly structureBytes: number;
  /** Traces rays in batches; between is called before each, and its time not counted. */
  trace(
    rays: Float32Array,
    any: boolean,
    coherent: boolean,
    between?: (first: number, count: number) => void,
  ): { seconds: number; hits: number };
  /** Nearest hit of ray i of the last closest trace. */
  hit(i: number): { t: number; prim: number };
}

export async function openKernel(): Promise<Kernel> {
  const memory = new WebAssembly.Memory({ initial: 8192, maximum: 65536, shared: true });
  return { memory, calls: await instantiate({ module: await kernelModule(), memory }) };
}
export const after = (at: number, bytes: number) => Math.ceil((at + bytes) / 64) * 64;

export interface Placed {
  readonly slots: number;
  readonly rays: number;
  readonly hits: number;
  readonly positions: number;
  readonly indices: number;
  readonly records: number;
  readonly scratch: number;
  readonly out: number;
}
export function place(mesh: Mesh, items: number): Placed {
  const slots = K.MEMORY.FIRST_ADDRESS;
  const rays = after(slots, 65536);
  const hits = after(rays, RAYS * K.RAY.BYTES);
  const positions = after(hits, RAYS * K.HIT.BYTES);
  const indices = after(positions, mesh.positions.byteLength + 16);
  const records = after(indices, mesh.indices.byteLength);
  const scratch = after(records, items * K.BUILD.RECORD_BYTES);
  return { slots, rays, hits, positions, indices, records, scratch, out: after(scratch, K.BUILD.SCRATCH_BYTES) };
}

export function putMesh(memory: WebAssembly.Memory, p: Placed, mesh: Mesh): void {
  new Float32Array(memory.buffer).set(mesh.positions, p.positions >> 2);
  new Uint32Array(memory.buffer).set(mesh.indices, p.indices >> 2);
}
/** Writes rays (8 floats each) as the kernel reads them; returns their number. */
export function putRays(memory: WebAssembly.Memory, p: Placed, rays: Float32Array): number {
  const f = new Float32Array(memory.buffer);
  const u = new Uint32Array(memory.buffer);
  const n = rays.length / 8;
  for (let i = 0; i < n; i++) {
    const q = (p.rays + i * K.RAY.BYTES) >> 2;
    f.set(rays.subarray(i * 8, i * 8 + 8), q);
    f[q + 3] = 0;
    u[q + K.RAY.MASK / 4] = K.MASK.ALL;
    u[q + K.RAY.PATH / 4] = 0;
  }
  return n;
}
function ready(
  { memory, calls }: Kernel,
  p: Placed,
  root: number,
  buildSeconds: number,
  structureBytes: number,
): Loaded {
  const f = new Float32Array(memory.buffer);
  const u = new Uint32Array(memory.buffer);
  return {
    buildSeconds,
    structureBytes,
    trace(rays, any, coherent, between) {
      const n = putRays(memory, p, rays);
      const together = any ? calls.occludedTogether : calls.closestTogether;
      const alone = any ? calls.occluded : calls.closest;
      const fn = coherent ? together : alone;
      // in batches, as the renderer's waves are: the compiler improves a function between calls only, so the first
      // calls are not counted
      const hitBytes = any ? 4 : K.HIT.BYTES;
      const batch = (first: number, count: number) =>
        fn(root, p.rays + first * K.RAY.BYTES, p.hits + first * hitBytes, count, p.slots, K.RAY.IN_FLIGHT);
      for (let i = 0; i < n && i < 8 * 2048; i += 2048) batch(i, Math.min(2048, n - i));
      let seconds = 0;
      let hits = 0;
      for (let i = 0; i < n; i += BATCH) {
        const count = Math.min(BATCH, n - i);
        between?.(i, count);
        seconds += processorSeconds(() => batch(i, count)).seconds;
      }
      for (let i = 0; i < n; i++)
        if (any ? u[(p.hits >> 2) + i] : u[(p.hits + i * K.HIT.BYTES + K.HIT.PRIM) >> 2] !== 0xffffffff) hits++;
      return { seconds, hits };
    },
    hit: (i) => {
      const q = (p.hits + i * K.HIT.BYTES) >> 2;
      return { t: f[q]!, prim: u[q + K.HIT.PRIM / 4]! };
    },
  };
}

export async function loadMesh(kernel: Kernel, mesh: Mesh): Promise<Loaded> {
  const p = place(mesh, mesh.indices.length / 3);
  putMesh(kernel.memory, p, mesh);
  const { seconds, value: root } = processorSeconds(() =>
    kernel.calls.buildMesh(p.positions, p.indices, mesh.indices.length / 3, p.records, p.scratch, p.out),
  );
  return ready(kernel, p, root, seconds, kernel.calls.buildEnd() - p.out);
}

export async function loadInstances(kernel: Kernel, mesh: Mesh, transforms: Float32Array): Promise<Loaded> {
  const count = transforms.length / 12;
  const p = place(mesh, Math.max(count, mesh.indices.length / 3));
  putMesh(kernel.memory, p, mesh);
  const f = new Float32Array(kernel.memory.buffer);
  const u = new Uint32Array(kernel.memory.buffer);
  const root = kernel.calls.buildMesh(p.positions, p.indices, mesh.indices.length / 3, p.records, p.scratch, p.out);
  const instances = after(kernel.calls.buildEnd(), 0);
  const top = after(instances, count * K.INST.BYTES);
  for (let i = 0; i < count; i++) {
    const q = (instances + i * K.INST.BYTES) >> 2;
    u[q + K.INST.ROOT / 4] = root;
    u[q + K.INST.MASK / 4] = K.MASK.ALL;
    f.set(transforms.subarray(i * 12, i * 12 + 12), q + K.INST.FORWARD / 4);
  }
  const { seconds, value } = processorSeconds(() =>
    kernel.calls.buildInstances(instances, count, p.records, p.scratch, top),
  );
  return ready(kernel, p, value, seconds, kernel.calls.buildEnd() - top);
}
