// The engine in the browser: kernel threads on shared memory where the page is isolated, one thread without.
import { Engine, type MeshCache, type SpawnThread, spawnInline } from '@variscen/engine';
import kernelUrl from '@variscen/engine/kernel.wasm?url';
import KernelWorker from './kernel.worker.ts?worker';

const spawnWorker: SpawnThread = (start, events) => {
  const worker = new KernelWorker();
  worker.onmessage = (m) => events.reply(m.data as Parameters<typeof events.reply>[0]);
  worker.onerror = (e) => events.died(e.message || 'it could not be loaded');
  worker.postMessage(start);
  return { post: (call) => worker.postMessage(call), terminate: () => worker.terminate() };
};

export async function openEngine(threads: number, meshCache: MeshCache): Promise<{ engine: Engine; threads: number }> {
  const module = await WebAssembly.compileStreaming(fetch(kernelUrl));
  const shared = globalThis.crossOriginIsolated;
  return {
    engine: await Engine.open({
      module,
      spawn: shared ? spawnWorker : spawnInline,
      threads: shared ? threads : 1,
      meshCache,
    }),
    threads: shared ? threads : 1,
  };
}
