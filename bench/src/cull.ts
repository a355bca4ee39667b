// What it costs and saves to load meshes and textures only when rays reach them, whole and so in turn in one run: the
// full demo, and a scene that weighs with all and with some of the memory that it takes.
import {
  type Engine,
  type EngineCamera,
  type EngineScene,
  type EngineTexture,
  type RenderSettings,
  type SceneMesh,
  bitsOf,
  emits,
  engineCamera,
  madeLevels,
  readStoredHead,
  storableTextures,
  textureUsesOf,
} from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { openDemo } from './demoScene.ts';
import type { Emit } from './figure.ts';
import { town } from './town.ts';

const LOOK = ['Paper lanterns', 'Clear night'];
const CAMERAS = { wide: 'Stall from the lane', close: 'Counter, close' } as const;
const SETTINGS: RenderSettings = { widthPx: 640, heightPx: 360, maxBounces: 6, clampIndirect: 0, seed: 1 };
const SAMPLES = 8;
const TURNS = Number(process.env['BENCH_TURNS'] ?? 3);
/** Of what the meshes take that rays meet. */
const SHARES = { 'four-thirds': 3 / 4, twice: 1 / 2, thrice: 1 / 3 } as const;

interface Shot {
  readonly scene: EngineScene;
  readonly camera: EngineCamera;
}
/** What need not be whole is kept elsewhere: here, in this process. */
async function stored(engine: Engine, scene: EngineScene): Promise<EngineScene<SceneMesh>> {
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
  const isStorable = storableTextures(scene.materials);
  const srgb = new Set(scene.materials.flatMap(textureUsesOf).flatMap((u) => (u.srgb ? [u.texture] : [])));
  const textures = scene.textures.map((t, i): EngineTexture => {
    if (!isStorable(i) || 'bits' in t.data) return t;
    const levels = madeLevels(t, t.data, 0, srgb.has(i));
    return { ...t, data: { bits: bitsOf(t), level: (level) => Promise.resolve(levels[level]!) } };
  });
  return { ...scene, meshes, textures };
}

export async function cullSuite(emit: Emit): Promise<void> {
  const engine = await openNodeEngine(2);
  try {
    const demo = await openDemo('full');
    for (const [name, cameraName] of Object.entries(CAMERAS)) {
      const settings = demo.cameras.find((c) => c.name === cameraName)!;
      const { scene } = await demo.scene(LOOK, settings);
      await compare(engine, name, { scene, camera: engineCamera(settings) }, {}, emit);
    }
    await compare(engine, 'town', town(), SHARES, emit);
  } finally {
    await engine.close();
  }
}

async function compare(
  engine: Engine,
  name: string,
  { scene, camera }: Shot,
  shares: Readonly<Record<string, number>>,
  emit: Emit,
): Promise<void> {
  const inParts = await stored(engine, scene);
  const take = async (what: EngineScene<SceneMesh>, budgetBytes?: number) => {
    const plan = await engine.load(what, SETTINGS, budgetBytes);
    const { seconds } = await engine.render({ camera, samples: SAMPLES });
    return { plan, seconds, film: engine.film(), pieces: engine.pieces() };
  };
  const whole = await take(scene);
  const { plan, film, pieces } = await take(inParts);
  const mib = (bytes: number) => bytes / 2 ** 20;
  emit({ name: `${name}-values-differ`, value: differ(whole.film, film), unit: 'values' });
  emit({
    name: `${name}-met`,
    value: mib(pieces.metBytes),
    unit: 'MiB',
    ratio: pieces.metBytes / pieces.bytes,
    of: `all meshes, ${pieces.pieces} pieces`,
  });
  const { textures } = pieces;
  if (textures.levels) {
    const ratio = textures.metBytes / textures.bytes;
    emit({ name: `${name}-textures-met`, value: mib(textures.metBytes), unit: 'MiB', ratio, of: 'all textures' });
  }
  let [wholeS, storedS] = [Infinity, Infinity];
  for (let turn = 0; turn < TURNS; turn++) {
    wholeS = Math.min(wholeS, (await take(scene)).seconds);
    storedS = Math.min(storedS, (await take(inParts)).seconds);
  }
  emit({ name: `${name}-time`, value: storedS, unit: 's', ratio: storedS / wholeS, of: 'all loaded before' });
  const rest = plan.totalBytes - plan.piecesBytes;
  for (const [share, of] of Object.entries(shares)) {
    const little = await take(inParts, rest + (pieces.metBytes + textures.metBytes) * of);
    const label = `${name}-${share}-budget`;
    emit({
      name: `${label}-time`,
      value: little.seconds,
      unit: 's',
      ratio: little.seconds / wholeS,
      of: 'all in memory',
    });
    emit({ name: `${label}-loads`, value: little.pieces.loads, unit: 'loads' });
    emit({ name: `${label}-values-differ`, value: differ(whole.film, little.film), unit: 'values' });
  }
}
const differ = (a: Float32Array, b: Float32Array): number => a.reduce((n, x, i) => n + Number(x !== b[i]), 0);
