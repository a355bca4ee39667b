// What it costs and saves to load meshes only when rays reach them: the full demo, whole and so, in turn in one run.
import type { EngineScene, LoadedCounts, RenderSettings, SceneMesh } from '@variscen/engine';
import { type Engine, emits, engineCamera, readStoredHead } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { openDemo } from './demoScene.ts';
import type { Emit } from './figure.ts';

const LOOK = ['Paper lanterns', 'Clear night'];
const CAMERAS = { wide: 'Stall from the lane', close: 'Counter, close' } as const;
const SETTINGS: RenderSettings = { widthPx: 320, heightPx: 180, maxBounces: 6, clampIndirect: 0, seed: 1 };
const SAMPLES = 16;
const TURNS = Number(process.env['BENCH_TURNS'] ?? 5);
/** Of what the meshes take that rays met. */
const BUDGETS = [0.75, 0.5, 1 / 3] as const;

/** All meshes but those that give light are kept elsewhere: here, in this process. */
async function storedMeshes(engine: Engine, scene: EngineScene): Promise<EngineScene<SceneMesh>> {
  const gives = new Set(scene.instances.filter((o) => emits(scene.materials[o.material]!)).map((o) => o.mesh));
  const meshes: SceneMesh[] = [];
  for (const [i, mesh] of scene.meshes.entries()) {
    if (gives.has(i)) {
      meshes.push(mesh);
      continue;
    }
    const all = await engine.store(mesh);
    const read = (from: number, bytes: number) => Promise.resolve(all.subarray(from, from + bytes));
    meshes.push({ name: mesh.name, head: readStoredHead(all), read });
  }
  return { ...scene, meshes };
}

export async function cullSuite(emit: Emit): Promise<void> {
  const demo = await openDemo('full');
  const engine = await openNodeEngine(2);
  try {
    for (const [name, cameraName] of Object.entries(CAMERAS)) {
      const settings = demo.cameras.find((c) => c.name === cameraName)!;
      const camera = engineCamera(settings);
      const { scene } = await demo.scene(LOOK, settings);
      const stored = await storedMeshes(engine, scene);
      const take = async (what: EngineScene<SceneMesh>, budgetBytes = Infinity) => {
        const plan = await engine.load(what, SETTINGS, budgetBytes);
        const { seconds } = await engine.render({ camera, samples: SAMPLES });
        return { plan, seconds, film: engine.film(), pieces: engine.pieces() };
      };
      const whole = await take(scene);
      const first = await take(stored);
      emit({ name: `same-picture-values-differ-${name}`, value: differ(whole.film, first.film), unit: 'values' });
      emitMet(emit, name, first.pieces, first.plan.piecesBytes);
      const times = { whole: Infinity, stored: Infinity };
      for (let turn = 0; turn < TURNS; turn++) {
        times.whole = Math.min(times.whole, (await take(scene)).seconds);
        times.stored = Math.min(times.stored, (await take(stored)).seconds);
      }
      emit({
        name: `pieces-time-${name}`,
        value: times.stored,
        unit: 's',
        ratio: times.stored / times.whole,
        of: 'all loaded before',
      });
      for (const share of BUDGETS) {
        const rest = first.plan.totalBytes - first.plan.piecesBytes;
        const little = await take(stored, rest + first.pieces.metBytes * share);
        emit({
          name: `budget-${share.toFixed(2)}-${name}`,
          value: little.seconds,
          unit: 's',
          ratio: little.seconds / times.whole,
          of: 'all in memory',
        });
        emit({ name: `budget-${share.toFixed(2)}-${name}-loads`, value: little.pieces.loads, unit: 'loads' });
        emit({
          name: `budget-${share.toFixed(2)}-${name}-differ`,
          value: differ(whole.film, little.film),
          unit: 'values',
        });
      }
    }
  } finally {
    await engine.close();
  }
}
function emitMet(emit: Emit, name: string, { pieces, met, metBytes }: LoadedCounts, allBytes: number): void {
  emit({ name: `met-${name}`, value: met, unit: 'pieces', ratio: met / pieces, of: `${pieces} pieces` });
  emit({
    name: `met-bytes-${name}`,
    value: metBytes / 2 ** 20,
    unit: 'MiB',
    ratio: metBytes / allBytes,
    of: 'all meshes',
  });
}
const differ = (a: Float32Array, b: Float32Array): number => a.reduce((n, x, i) => n + Number(x !== b[i]), 0);
