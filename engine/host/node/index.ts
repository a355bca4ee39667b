// The engine in Node: worker threads, and the compiled kernel from beside this package.
import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { Worker } from 'node:worker_threads';
import { DRAWING } from '../drawing.ts';
import { Engine } from '../engine.ts';
import type { MeshCache } from '../meshCache.ts';
import type { SpawnThread } from '../pool.ts';

const built = new URL(import.meta.url.endsWith('.ts') ? '../../dist/' : '../../', import.meta.url);

export const spawnNodeThread: SpawnThread = (start, events) => {
  // always the build, whatever loader the parent runs under
  const worker = new Worker(new URL('host/node/thread.js', built), { workerData: start, execArgv: [] });
  worker.on('message', events.reply);
  worker.on('error', (e) => events.died(e.message));
  worker.on('exit', (code) => events.died(`exit code ${code}`));
  return {
    post: (call) => worker.postMessage(call),
    terminate: async () => {
      await worker.terminate();
    },
  };
};

const modules = new Map<string, Promise<WebAssembly.Module>>();
/** The compiled kernel; with assertions where debug is set. Compiled once a process. */
export function kernelModule(debug = false): Promise<WebAssembly.Module> {
  const name = debug ? 'kernel.debug.wasm' : 'kernel.wasm';
  let m = modules.get(name);
  if (!m) modules.set(name, (m = readFile(new URL(name, built)).then((bytes) => WebAssembly.compile(bytes))));
  return m;
}

/** Which engine this is: films from the same one can be put together. */
export async function engineBuild(): Promise<string> {
  return createHash('sha256')
    .update(await readFile(new URL('kernel.wasm', built)))
    .update(`drawing ${DRAWING}`)
    .digest('hex');
}

export async function openNodeEngine(threads: number, debug = false, meshCache?: MeshCache): Promise<Engine> {
  return Engine.open({ module: await kernelModule(debug), spawn: spawnNodeThread, threads, meshCache });
}
