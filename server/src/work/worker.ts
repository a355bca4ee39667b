// Entry of the worker thread: one task, then it ends.
import { readFile } from 'node:fs/promises';
import { parentPort, workerData } from 'node:worker_threads';
import { SceneIndex, resolve } from '@variscen/core/looks';
import { type CameraSettings, type SceneDocument, ImportError, animationData, importGltf, poseFor } from '@variscen/core/scene';
import { EngineError, type MemoryPlan, checkBudget, countSelection, layOut, select, settingsOf } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { AssetStore, sha256 } from '../files/store.ts';
import type { ImportOutcome, ImportTask, Message, PlanTask, PlannedTrace, Task } from './tasks.ts';

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

const NAMED = 200; // dropped objects named in a plan

/** Why a job so large is not taken. */
function refusalOf(plan: Pick<MemoryPlan, 'bytes' | 'totalBytes'>, budgetBytes: number): string | null {
  try { checkBudget(plan, budgetBytes); return null; } catch (e) { if (e instanceof EngineError) return e.message; throw e; }
}

async function runPlan(t: PlanTask): Promise<PlannedTrace[]> {
  const store = new AssetStore(t.assets), document = JSON.parse(new TextDecoder().decode(await store.get(t.sceneHash))) as SceneDocument, motion = await animationData(document, (hash) => store.get(hash)), scene = new SceneIndex(document), out: PlannedTrace[] = [];
  for (const [i, trace] of t.traces.entries()) {
    const state = resolve(scene, [{ id: 'snapshot', name: '', kind: 'base', changes: trace.changes }]);
    const of = (camera: CameraSettings) => select(poseFor(document, motion, camera), state), culled = of(trace.camera), whole = trace.camera.cullMarginPct === null ? culled : of({ ...trace.camera, cullMarginPct: null });
    const dropped = culled.verdicts.filter((v) => !v.keep && v.reason === 'off-frame');
    const common = { objects: culled.verdicts.filter((v) => v.keep).length, dropped: dropped.slice(0, NAMED).map((v) => document.nodes[v.node]!.path), droppedCount: dropped.length, culls: trace.camera.cullMarginPct !== null };
    const settings = settingsOf(t.profile, { widthPx: trace.widthPx, heightPx: trace.heightPx }, culled), a = layOut(countSelection(culled, settings, t.threads)), b = layOut(countSelection(whole, settings, t.threads));
    out.push({ ...common, bytes: a.bytes, totalBytes: a.totalBytes, bytesWithoutCulling: b.bytes, totalBytesWithoutCulling: b.totalBytes, refusal: refusalOf(a, t.budgetBytes) });
    send({ type: 'progress', fraction: (i + 1) / t.traces.length });
  }
  return out;
}

try {
  const task = workerData as Task;
  send({ type: 'done', value: task.kind === 'import' ? await runImport(task) : await runPlan(task) });
} catch (e) {
  const code = e instanceof ImportError || e instanceof EngineError ? e.code : 'INTERNAL';
  send({ type: 'failed', code, message: e instanceof Error ? e.message : String(e) });
}
