// A live picture in other lights against the picture that is traced in them.
import { SceneIndex, resolve, sourceLight } from '@variscen/core/looks';
import { type SceneDocument, cameraForScene, lookAt } from '@variscen/core/scene';
import { type Selection, attach, engineCamera, lightsApart, select, settingsOf } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { PROFILES } from '@variscen/core/plan';
import { beforeAll, describe, expect, it } from 'vitest';
import { ApartPicture } from './apartLights.ts';
import { paper, square } from './testSquare.ts';

const lamp = (path: string, x: number) => ({
  path,
  name: path,
  parent: -1,
  matrix: lookAt([x, 0.5, 1.5], [x, 0, 0]),
  light: 0,
});
const sheet = { ...paper, baseColor: [0.8, 0.7, 0.6], roughness: 0.9, emissionStrength: 0 };
const document = (accelerationBytes: number) =>
  ({
    version: 1,
    meshes: [
      {
        name: 'square',
        blob: 'square',
        vertices: 4,
        triangles: 2,
        normals: true,
        uv0: false,
        uv1: false,
        colors: false,
        min: [-1, -1, 0],
        max: [1, 1, 0],
        accelerationBytes,
      },
    ],
    textures: [],
    cameras: [],
    materials: [paper, { ...sheet, name: 'Ember', emissionColor: [1, 0.6, 0.3], emissionStrength: 2 }],
    lights: [{ type: 'point', color: [1, 1, 1], intensity: 3, radiusM: 0.05 }],
    nodes: [
      {
        path: 'Sheet',
        name: 'Sheet',
        parent: -1,
        matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
        parts: [{ mesh: 0, material: 0 }],
      },
      {
        path: 'Coal',
        name: 'Coal',
        parent: -1,
        matrix: [0.2, 0, 0, 0, 0, 0.2, 0, 0, 0, 0, 0.2, 0, 0, 0, 0.4, 1],
        parts: [{ mesh: 0, material: 1 }],
      },
      lamp('Left', -0.7),
      lamp('Right', 0.7),
    ],
  }) as unknown as SceneDocument;
const set = (target: string, property: string, value: number | boolean | readonly [number, number, number]) => ({
  target,
  property,
  value,
});
type Changes = readonly ReturnType<typeof set>[];
const SIZE = { widthPx: 48, heightPx: 32 };
const LIVE = { ...PROFILES[0]!, denoise: 0, aovs: [], noise: null, maxBounces: 3 };

async function traced(changes: Changes, keeps = true) {
  const engine = await openNodeEngine(1);
  try {
    const d = document(await engine.measureMesh({ name: 'square', ...square }));
    const index = new SceneIndex(d);
    const state = resolve(index, [{ id: 'base', name: '', kind: 'base', changes }]);
    const camera = { ...cameraForScene(d), matrix: lookAt([0, 0, 3], [0, 0, 0]) };
    const { selection, sources } = lightsApart(select({ now: { document: d, camera } }, state));
    const scene = await attach(
      selection as Selection,
      {
        geometry: () => Promise.resolve(square),
        deform: () => Promise.reject(new Error('none')),
        pixels: () => Promise.reject(new Error('none')),
        environment: () => Promise.reject(new Error('none')),
      },
      LIVE.displacement,
      SIZE.heightPx,
    );
    await engine.load(scene, { ...settingsOf(LIVE, SIZE, selection), lightGroups: sources.length });
    await engine.render({ camera: engineCamera(camera), samples: 128 });
    const film = engine.film();
    const powers = sourceLight(state);
    let isThere = true;
    const group = (at: number) => (isThere ? engine.groupHalved(at) : undefined);
    const apart = new ApartPicture(film, film, group, SIZE, sources, powers);
    if (keeps) apart.keep();
    isThere = false;
    return { film, powers, sources, apart };
  } finally {
    await engine.close();
  }
}
const mean = (film: Float32Array, from: number, to: number) => {
  let sum = 0;
  let n = 0;
  for (let y = 0; y < SIZE.heightPx; y++)
    for (let x = Math.floor(from * SIZE.widthPx); x < to * SIZE.widthPx; x++, n++)
      sum += film[(y * SIZE.widthPx + x) * 4]!;
  return sum / n;
};

const DIM = set('environment', 'environment.strength', 0.1);
/** Traced once for all. */
let dim: ReturnType<typeof traced>;
beforeAll(() => {
  dim = traced([DIM]);
});

describe('a live picture in other lights', () => {
  it.each<[string, Changes]>([
    ['one lamp stronger', [DIM, set('light:Left', 'light.intensity', 9)]],
    ['one lamp off', [DIM, set('light:Right', 'light.on', false)]],
    ['one lamp in another colour', [DIM, set('light:Left', 'light.color', [0.1, 1, 0.4])]],
    [
      'the sky stronger, and a lamp weaker',
      [set('environment', 'environment.strength', 0.6), set('light:Left', 'light.intensity', 1)],
    ],
    ['what glows weaker', [DIM, set('material:Ember', 'material.emissionStrength', 0.5)]],
    [
      'what glows alone, and in another colour',
      [
        set('environment', 'environment.strength', 0),
        set('light:Left', 'light.on', false),
        set('light:Right', 'light.on', false),
        set('material:Ember', 'material.emissionColor', [0.2, 0.6, 0.9]),
      ],
    ],
  ])('%s: is the picture that is traced so', async (_name, changes) => {
    const before = await dim;
    const wanted = await traced(changes);
    const got = before.apart.relit(wanted.powers)!;
    for (const [from, to] of [
      [0, 0.25],
      [0.25, 0.5],
      [0.5, 0.75],
      [0.75, 1],
    ] as const)
      expect(Math.abs(mean(got, from, to) / mean(wanted.film, from, to) - 1)).toBeLessThan(0.1); // it is blurred
  });

  it('with the lights that it has is what it is, and is not made up where a lamp was off', async () => {
    const { film, powers, apart } = await dim;
    expect(apart.relit(powers)).toEqual(film);
    const dark = await traced([DIM, set('light:Left', 'light.on', false)]);
    expect(dark.sources).not.toContain('light:Left');
    expect(dark.apart.relit(powers)).toBeUndefined();
  });
  it('is not made of what was not kept', async () => {
    const { powers, apart } = await traced([DIM], false);
    const brighter = new Map([...powers, ['light:Left', [9, 9, 9] as const]]);
    expect(apart.relit(brighter)).toBeUndefined();
  });
});
