// What it saves to leave out what is covered: a figure under clothes, of which no ray meets anything, whole and without
// it in turn in one run.
import { type EngineCamera, type EngineScene, MASK, PLAIN_MATERIAL } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import type { Emit } from './figure.ts';
import { STONE, body } from './town.ts';

const RINGS = 300;
/** The clothes stand so far off the figure. */
const WIDER = 1.01;
const SAMPLES = 24;
const TURNS = Number(process.env['BENCH_TURNS'] ?? 3);
const SETTINGS = { widthPx: 640, heightPx: 640, maxBounces: 6, clampIndirect: 0, seed: 1 };
const CAMERA: EngineCamera = {
  matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 4, 1],
  projection: 'perspective',
  halfHeight: 0.32,
  nearM: 0.01,
  farM: 100,
  lensRadiusM: 0,
  focusDistanceM: 3,
};

function clothed(hasFigure: boolean): EngineScene {
  const figure = body(3, RINGS);
  const clothes = { ...figure, name: 'clothes' };
  const scaled = (by: number) => [by, 0, 0, 0, 0, by, 0, 0, 0, 0, by, 0, 0, 0, 0, 1];
  const cloth = { ...PLAIN_MATERIAL, baseColor: [0.3, 0.35, 0.6, 1] as const, roughness: 1 };
  const under = { name: 'figure', mesh: 1, material: 0, matrix: scaled(1), mask: MASK.ALL };
  return {
    meshes: hasFigure ? [clothes, figure] : [clothes],
    textures: [],
    materials: [STONE, cloth],
    instances: [
      { name: 'clothes', mesh: 0, material: 1, matrix: scaled(WIDER), mask: MASK.ALL },
      ...(hasFigure ? [under] : []),
    ],
    lights: [
      { type: 'point', position: [3, 4, 5], intensityCd: [900, 900, 900], radiusM: 0.3 },
      { type: 'point', position: [-4, 1, 3], intensityCd: [300, 300, 400], radiusM: 0.3 },
    ],
  };
}

export async function clothesSuite(emit: Emit): Promise<void> {
  const engine = await openNodeEngine(2);
  const take = async (scene: EngineScene) => {
    const began = performance.now();
    await engine.load(scene, SETTINGS);
    const { seconds } = await engine.render({ camera: CAMERA, samples: SAMPLES });
    return { traceS: seconds, allS: (performance.now() - began) / 1000, film: engine.film() };
  };
  try {
    const [whole, without] = [clothed(true), clothed(false)];
    const first = { whole: await take(whole), without: await take(without) };
    const differ = first.whole.film.reduce((n, x, i) => n + Number(x !== first.without.film[i]), 0);
    emit({ name: 'clothes-values-differ', value: differ, unit: 'values' });
    const least = { whole: { traceS: Infinity, allS: Infinity }, without: { traceS: Infinity, allS: Infinity } };
    for (let turn = 0; turn < TURNS; turn++)
      for (const [which, scene] of [
        ['whole', whole],
        ['without', without],
      ] as const) {
        const { traceS, allS } = await take(scene);
        const known = least[which];
        least[which] = { traceS: Math.min(known.traceS, traceS), allS: Math.min(known.allS, allS) };
      }
    const of = 'with the figure under them';
    const ratioOf = (what: 'traceS' | 'allS') => least.without[what] / least.whole[what];
    emit({ name: 'clothes-trace-time', value: least.without.traceS, unit: 's', ratio: ratioOf('traceS'), of });
    emit({ name: 'clothes-time', value: least.without.allS, unit: 's with loading', ratio: ratioOf('allS'), of });
  } finally {
    await engine.close();
  }
}
