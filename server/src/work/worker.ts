// Entry of the process of tasks: one after another, until it is ended by who started it. Each task loads what it needs:
// the readers of scenes alone take most of a second.
import { readFile, writeFile } from 'node:fs/promises';
import {
  ImportError,
  type SceneDocument,
  cameraForScene,
  matchScenes,
  reviseDocument,
  sceneCameras,
  unpackGeometry,
} from '@variscen/core/scene';
import { EngineError } from '@variscen/engine';
import { knownFault } from '../faults.ts';
import { AssetStore, notSoundOf, sha256 } from '../files/store.ts';
import type {
  EnvironmentOutcome,
  EnvironmentTask,
  ExportOutcome,
  ExportTask,
  ImportOutcome,
  ImportTask,
  LutOutcome,
  LutTask,
  MatchOutcome,
  MatchTask,
  Message,
  Outcomes,
  Task,
} from './tasks.ts';

const send = (m: Message) => {
  process.send!(m);
};
const PROGRESS_EVERY_MS = 100;
let saidAt = -Infinity;
/** Thousands of words of progress would take longer than the work that they tell of. */
function progress(fraction: number): void {
  const now = performance.now();
  if (now - saidAt < PROGRESS_EVERY_MS) return;
  saidAt = now;
  send({ type: 'progress', fraction });
}
// the server is gone: nobody waits for this
process.on('disconnect', () => process.exit());

async function runImport(t: ImportTask): Promise<ImportOutcome> {
  const [{ importScene }, { damageOf }, { openNodeEngine }] = await Promise.all([
    import('@variscen/core/import'),
    import('../files/decodeTexture.ts'),
    import('@variscen/engine/node'),
  ]);
  const engine = await openNodeEngine(1);
  const staged = new AssetStore(t.assets).stage(t.stage);
  try {
    const { document, report } = await importScene(t.fileName, await readFile(t.file), {
      hash: sha256,
      ...(t.metresPerUnit !== undefined && { metresPerUnit: t.metresPerUnit }),
      accelerationBytes: (name, g) => engine.measureMesh({ name, ...g }),
      checkImage: damageOf,
      keep: (hash, bytes) => staged.put(hash, bytes),
      onProgress: progress,
    });
    const bytes = new TextEncoder().encode(JSON.stringify(document));
    const sceneHash = sha256(bytes);
    await staged.put(sceneHash, bytes);
    await staged.commit();
    return {
      sceneHash,
      report,
      cameras: sceneCameras(document),
      whole: cameraForScene(document),
      variants: document.variants ?? [],
    };
  } finally {
    await engine.close();
  }
}

async function runEnvironment(t: EnvironmentTask): Promise<EnvironmentOutcome> {
  const [{ importEnvironment }, { packMap }] = await Promise.all([
    import('@variscen/core/import'),
    import('@variscen/core/environment'),
  ]);
  const { map, remarks } = importEnvironment(t.fileName, await readFile(t.file));
  return { hash: await new AssetStore(t.assets).put(packMap(map)), width: map.width, height: map.height, remarks };
}

async function runLut(t: LutTask): Promise<LutOutcome> {
  const [{ importLut }, { packLut }] = await Promise.all([
    import('@variscen/core/import'),
    import('@variscen/core/image'),
  ]);
  const lut = importLut(await readFile(t.file, 'utf8'), t.fileName);
  return { hash: await new AssetStore(t.assets).put(packLut(lut)), size: lut.size };
}

async function runExport(t: ExportTask): Promise<ExportOutcome> {
  const { exportScene } = await import('@variscen/core/export');
  const store = new AssetStore(t.assets);
  const scene = JSON.parse(new TextDecoder().decode(await store.get(t.sceneHash))) as SceneDocument;
  const { bytes } = await exportScene(
    scene,
    [{ id: 'base', name: 'Base', kind: 'base', changes: t.base }],
    t.options.map((o) => ({
      name: o.name,
      layer: { id: o.name, name: o.name, kind: 'option', facet: 'materials', changes: o.changes },
    })),
    {
      geometry: async (i) => unpackGeometry(await store.get(scene.meshes[i]!.blob), scene.meshes[i]!),
      image: (blob) => store.get(blob),
    },
  );
  await writeFile(t.file, bytes);
  return { bytes: bytes.length };
}

async function runMatch(t: MatchTask): Promise<Partial<Outcomes['revise']> & MatchOutcome> {
  const store = new AssetStore(t.assets);
  const read = async (hash: string) => JSON.parse(new TextDecoder().decode(await store.get(hash))) as SceneDocument;
  const known: SceneDocument[] = [];
  for (const hash of t.known) known.push(await read(hash));
  const after = await read(t.after);
  const match = matchScenes(known, after, t.byHand);
  const camerasBefore = known[0] ? sceneCameras(known[0]) : [];
  if (t.kind === 'match') return { match, cameras: sceneCameras(after), camerasBefore };
  const revised = reviseDocument(known, after, match);
  return {
    match,
    cameras: sceneCameras(revised),
    camerasBefore,
    variants: revised.variants ?? [],
    sceneHash: await store.put(new TextEncoder().encode(JSON.stringify(revised))),
  };
}

async function run(task: Task): Promise<unknown> {
  switch (task.kind) {
    case 'import':
      return runImport(task);
    case 'environment':
      return runEnvironment(task);
    case 'lut':
      return runLut(task);
    case 'plate': {
      const { storePlate } = await import('../files/plate.ts');
      return storePlate(new AssetStore(task.assets), task.file, task.fileName);
    }
    case 'reference':
      return (await import('./runReference.ts')).runReference(task);
    case 'verify':
      return { notSound: await notSoundOf(new AssetStore(task.assets), task.hashes) };
    case 'export':
      return runExport(task);
    case 'film':
      return (await import('../files/film.ts')).writeFilm(task.frames, task.file);
    case 'develop':
      return (await import('./runDevelop.ts')).runDevelop(task);
    case 'deliver':
      return (await import('./runDeliver.ts')).runDeliver(task, progress);
    case 'sheet':
      return (await import('./runSheet.ts')).runSheet(task, progress);
    case 'tiles':
      return (await import('./runTiles.ts')).runTiles(task);
    case 'objectsAt':
      return (await import('./runObjects.ts')).runObjectsAt(task);
    case 'objectMask':
      return (await import('./runObjects.ts')).runObjectMask(task);
    case 'lightPicture':
      return (await import('./runLightPicture.ts')).runLightPicture(task);
    case 'probe':
      return (await import('./runProbe.ts')).runProbe(task, progress);
    case 'split':
      return (await import('./runSplit.ts')).runSplit(task, progress);
    case 'standIns':
      return (await import('./runStandIns.ts')).runStandIns(task, progress);
    case 'proof':
      return (await import('./runProof.ts')).runProof(task, progress);
    case 'plan':
      return (await import('./runPlan.ts')).runPlan(task, progress);
    default:
      return runMatch(task);
  }
}

/** With the code by which the server answers. */
function saidOf(e: unknown): { readonly code: string; readonly message: string } {
  if (e instanceof ImportError || e instanceof EngineError) return { code: e.code, message: e.message };
  const known = knownFault(e);
  if (known) return { code: known.code, message: known.message };
  return { code: 'INTERNAL', message: e instanceof Error ? (e.stack ?? e.message) : String(e) };
}

process.on('message', (task: Task) => {
  saidAt = -Infinity;
  void run(task).then(
    (value) => send({ type: 'done', value }),
    (e: unknown) => send({ type: 'failed', ...saidOf(e) }),
  );
});
