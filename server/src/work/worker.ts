// Entry of the worker thread: one task, then it ends.
import { readFile } from 'node:fs/promises';
import { parentPort, workerData } from 'node:worker_threads';
import { ImportError, importGltf } from '@variscen/core/scene';
import { EngineError } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { AssetStore, sha256 } from '../files/store.ts';
import { runPlan } from './runPlan.ts';
import type { ImportOutcome, ImportTask, Message, Task } from './tasks.ts';

const send = (m: Message) => parentPort!.postMessage(m);

async function runImport(t: ImportTask): Promise<ImportOutcome> {
  const engine = await openNodeEngine(1), store = new AssetStore(t.assets);
  try {
    const result = await importGltf(t.fileName, await readFile(t.file), {
      hash: sha256, accelerationBytes: (name, g) => engine.measureMesh({ name, ...g }), onProgress: (fraction) => send({ type: 'progress', fraction }),
    });
    for (const bytes of result.blobs.values()) await store.put(bytes);
    return { sceneHash: await store.put(new TextEncoder().encode(JSON.stringify(result.document))), report: result.report };
  } finally {
    await engine.close();
  }
}

try {
  const task = workerData as Task;
  send({ type: 'done', value: task.kind === 'import' ? await runImport(task) : await runPlan(task, (fraction) => send({ type: 'progress', fraction })) });
} catch (e) {
  const code = e instanceof ImportError || e instanceof EngineError ? e.code : 'INTERNAL';
  send({ type: 'failed', code, message: e instanceof Error ? e.message : String(e) });
}
