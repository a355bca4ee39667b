// Runs in a worker thread (Node's or the browser's): holds one instance of the kernel on the shared memory and carries
// out calls.
// Messages are handled one by one; a trap in the kernel travels back as an error.

import { JOB, MEMORY, SCRATCH } from '../kernel/layout/index.ts';

export interface KernelExports {
  staticEnd(): number;
  buildEnd(): number;
  buildMesh(
    positions: number,
    indices: number,
    triangles: number,
    records: number,
    scratch: number,
    out: number,
  ): number;
  refitMesh(root: number, positions: number, indices: number, scratch: number): void;
  buildInstances(instances: number, count: number, records: number, scratch: number, out: number): number;
  closest(root: number, rays: number, hits: number, count: number, slots: number, inFlight: number): void;
  occluded(root: number, rays: number, out: number, count: number, slots: number, inFlight: number): void;
  closestTogether(root: number, rays: number, hits: number, count: number, slots: number, inFlight: number): void;
  occludedTogether(root: number, rays: number, out: number, count: number, slots: number, inFlight: number): void;
  energyTableBytes(stretched: number): number;
  glassTableBytes(): number;
  fillEnergyTables(tables: number, stretched: number, scratch: number): void;
  fillGlassTable(table: number, ior: number, scratch: number): void;
  denoiseScratchBytes(width: number, groups: number): number;
  denoiseBands(job: number, scratch: number, out: number): void;
  renderTiles(job: number, scratch: number, thread: number): void;
  surfaceAt(job: number, hit: number, instance: number, x: number, y: number, z: number, record: number): void;
  evaluateAt(job: number, record: number, x: number, y: number, z: number): void;
  scatterAt(job: number, record: number, r1: number, r2: number, r3: number, pick: number): void;
  random3At(seed: number, sample: number, pair: number, out: number): void;
}

export interface Start {
  readonly module: WebAssembly.Module;
  readonly memory: WebAssembly.Memory;
}
export interface Call {
  readonly id: number;
  readonly fn: keyof KernelExports;
  readonly args: readonly number[];
}
export type Reply =
  | { readonly id: number; readonly value: number | undefined }
  | { readonly id: number; readonly error: string }
  /** In the middle of a call: it waits for something to be loaded. */
  | { readonly stands: true };

/** @param stand the thread of this scratch stands still: returns when the job may go on */
export async function instantiate(
  { module, memory }: Start,
  stand: (job: number, scratch: number) => void = cannotWait,
): Promise<KernelExports> {
  const instance = await WebAssembly.instantiate(module, {
    env: {
      memory,
      abort: (_message: number, _file: number, line: number, column: number) => {
        throw new Error(`kernel assertion at ${line}:${column}`);
      },
      stand,
    },
  });
  const kernel = instance.exports as unknown as KernelExports;
  if (kernel.staticEnd() > MEMORY.FIRST_ADDRESS)
    throw new Error(`the kernel's constants end at ${kernel.staticEnd()}, past MEMORY.FIRST_ADDRESS`);
  return kernel;
}

function cannotWait(): never {
  throw new Error('a ray reached a mesh that is not loaded, and this thread cannot wait for it');
}
/** Says so, and waits until the host lets threads go on. */
function standing({ memory }: Start, say: () => void): (job: number, scratch: number) => void {
  return (jobAt, scratchAt) => {
    // addresses come with a sign, and go beyond 2 GiB
    const job = jobAt >>> 0;
    const scratch = scratchAt >>> 0;
    const words = new Int32Array(memory.buffer);
    const at = (job + JOB.LOADS) >>> 2;
    const mayGoOn = () => [0, scratch].includes(Atomics.load(words, (job + JOB.ONLY) >>> 2) >>> 0);
    for (let hasSaid = false; ; hasSaid = true) {
      const loads = Atomics.load(words, at);
      Atomics.store(words, (scratch + SCRATCH.STANDS) >>> 2, loads + 1);
      if (!hasSaid) say();
      Atomics.wait(words, at, loads);
      if (mayGoOn()) break;
    }
  };
}

/** Answers calls that arrive through `receive` with `send`. */
export async function serve(
  start: Start,
  receive: (handle: (call: Call) => void) => void,
  send: (reply: Reply) => void,
): Promise<void> {
  const kernel = await instantiate(
    start,
    standing(start, () => send({ stands: true })),
  );
  receive(({ id, fn, args }) => {
    try {
      const value = (kernel[fn] as (...a: readonly number[]) => number | undefined)(...args);
      send({ id, value: value === undefined ? undefined : value >>> 0 });
    } catch (e) {
      send({ id, error: e instanceof Error ? e.message : String(e) });
    }
  });
  send({ id: 0, value: undefined });
}
