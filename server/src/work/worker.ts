// Entry of the worker thread: one task, then it ends.
import { readFile } from 'node:fs/promises';
import { parentPort, workerData } from 'node:worker_threads';
import { packMap } from '@variscen/core/environment';
import { importEnvironment, importScene } from '@variscen/core/import';
import { ImportError, type SceneDocument, matchScenes, reviseDocument } from '@variscen/core/scene';
import { EngineError } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { AssetStore, sha256 } from '../files/store.ts';
import { runPlan } from './runPlan.ts';
import type { EnvironmentOutcome, EnvironmentTask, ImportOutcome, ImportTask, MatchOutcome, MatchTask, Message, Task } from './tasks.ts';

const send = (m: Message) => parentPort!.postMessage(m);

async function runImport(t: ImportTask): Promise<ImportOutcome> {
  const engine = await openNodeEngine(1), store = new AssetStore(t.assets);
  try {
    const result = await importScene(t.fileName, await readFile(t.file), {
      hash: sha256, ...(t.metresPerUnit !== undefined && { metresPerUnit: t.metresPerUnit }), accelerationBytes: (name, g) => engine.measureMesh({ name, ...g }), onProgress: (fraction) => send({ type: 'progress', fraction }),
    });
    for (const bytes of result.blobs.values()) await store.put(bytes);
    return { sceneHash: await store.put(new TextEncoder().encode(JSON.stringify(result.document))), report: result.report };
  } finally {
    await engine.close();
  }
}

async function runEnvironment(t: EnvironmentTask): Promise<EnvironmentOutcome> {
  const { map, remarks } = importEnvironment(t.fileName, await readFile(t.file));
  return { hash: await new AssetStore(t.assets).put(packMap(map)), width: map.width, height: map.height, remarks };
}

async function runMatch(t: MatchTask): Promise<MatchOutcome & { readonly sceneHash?: string }> {
  const store = new AssetStore(t.assets), read = async (hash: string) => JSON.parse(new TextDecoder().decode(await store.get(hash))) as SceneDocument;
  const known: SceneDocument[] = [];
  for (const hash of t.known) known.push(await read(hash));
  const after = await read(t.after), match = matchScenes(known, after, t.byHand);
  return t.kind === 'match' ? { match } : { match, sceneHash: await store.put(new TextEncoder().encode(JSON.stringify(reviseDocument(known, after, match)))) };
}

async function run(task: Task): Promise<unknown> {
  switch (task.kind) {
    case 'import': return runImport(task);
    case 'environment': return runEnvironment(task);
    case 'plan': return runPlan(task, (fraction) => send({ type: 'progress', fraction }));
    default: return runMatch(task);
  }
}

try {
  send({ type: 'done', value: await run(workerData as Task) });
} catch (e) {
  const code = e instanceof ImportError || e instanceof EngineError ? e.code : 'INTERNAL';
  send({ type: 'failed', code, message: e instanceof Error ? e.message : String(e) });
}
