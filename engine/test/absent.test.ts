// The law that culling stands on, tried on scenes of all kinds: what no path has met makes no difference, to the bit,
// wherever in the scene it stood and whatever else goes with it.
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  type Engine,
  type EngineInstance,
  type EngineMaterial,
  type EngineMesh,
  type EngineScene,
  type EngineTexture,
  MASK,
  type Picture,
  type RenderSettings,
} from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { constantSky, downCamera, floor, glow, matte, scene, settings, sphere } from './fixtures.ts';
import { numbers } from './soup.ts';

const SAMPLES = 17;
const FRAME: RenderSettings = {
  ...settings(66, 34, 5),
  planes: ['depth', 'normal', 'albedo', 'direct', 'indirect', 'emission', 'objects', 'motion'],
  lightGroups: 2,
  noise: { threshold: 0.06, floorNits: 0.05 },
};
const camera = { ...downCamera(3, 1.3), lensRadiusM: 0.02, focusDistanceM: 2.5 };

/** A sheet with texture coordinates. */
const SHEET: EngineMesh = { ...floor(0.5), name: 'sheet', uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]) };
const MESHES: readonly EngineMesh[] = [floor(2), sphere(10, 0.25), SHEET, sphere(10, 0.08)];
const [FLOOR, SHELL, LEAF, NUT] = [0, 1, 2, 3];

function leafTexture(random: () => number): EngineTexture {
  const data = Uint8Array.from({ length: 16 * 16 * 4 }, (_, i) => (i % 4 < 3 ? 60 + random() * 190 : random() * 255));
  return { name: 'leaf', width: 16, height: 16, data };
}
const colors = (texture: number) => ({
  base: { texture, srgb: true, uvSet: 0, wrapS: 'repeat', wrapT: 'repeat', matrix: [2, 0, 0, 0, 2, 0] } as const,
});
/** One of each kind of surface that light is decided at. */
const MATERIALS: readonly EngineMaterial[] = [
  { ...matte, name: 'matte', baseColor: [0.7, 0.6, 0.5, 1] },
  { ...matte, name: 'mirror', metallic: 1, roughness: 0 },
  {
    ...matte,
    name: 'glass',
    transmission: 1,
    ior: 1.5,
    specular: 1,
    solid: true,
    roughness: 0,
    attenuation: [1, 2, 3],
  },
  { ...matte, name: 'pane', transmission: 1, ior: 1.5, specular: 1, roughness: 0, baseColor: [0.9, 0.7, 0.7, 1] },
  { ...matte, name: 'blended', alphaMode: 'blend', textures: colors(0) },
  { ...matte, name: 'cut out', alphaMode: 'mask', alphaCutoff: 0.4, textures: colors(0) },
  { ...glow([6, 5, 3]), name: 'glow' },
  { ...matte, name: 'dim', baseColor: [0.0001, 0.0001, 0.0001, 1] },
  { ...matte, name: 'opaque', baseColor: [0.5, 0.5, 0.5, 1] },
];
const OPAQUE = MATERIALS.length - 1;

interface Drawn {
  readonly what: EngineScene;
  readonly hasFog: boolean;
}
/** Things about a floor; behind opaque shells, under the floor and far off stand those that nothing meets. */
function sceneOf(seed: number): Drawn {
  const random = numbers(seed);
  const within = (reach: number) => (random() * 2 - 1) * reach;
  const instances: EngineInstance[] = [];
  const put = (name: string, mesh: number, material: number, at: readonly [number, number, number]) => {
    const turn = random() * 6;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const matrix = [c, s * 0.5, s, 0, 0, 1, 0, 0, -s, 0, c, 0, ...at, 1];
    // names are shared, as of copies
    instances.push({ name, mesh, material, matrix, mask: MASK.ALL, ...(material === 6 && { lightGroup: 1 }) });
  };
  put('floor', FLOOR!, 0, [0, -0.5, 0]);
  const count = 6 + Math.floor(random() * 14);
  for (let i = 0; i < count; i++) {
    const at = [within(1.3), within(0.4), within(0.8)] as const;
    const fate = random();
    if (fate < 0.45) put('thing', random() < 0.5 ? SHELL! : LEAF!, Math.floor(random() * OPAQUE), at);
    else if (fate < 0.7) {
      put('nut', NUT!, Math.floor(random() * 6), at);
      put('shell', SHELL!, OPAQUE, at);
    } else put('thing', LEAF!, Math.floor(random() * 6), [within(1), fate < 0.85 ? -1.5 : 40, within(1) - 30]);
  }
  // in any order: what is not met stands first, last and in between
  instances.sort((a, b) => ((a.matrix[12]! * 1e4) % 1) - ((b.matrix[12]! * 1e4) % 1));
  const hasFog = random() < 0.4;
  const what = scene({
    meshes: MESHES,
    materials: MATERIALS,
    textures: [leafTexture(random)],
    instances,
    ...(random() < 0.7 && { environment: constantSky(0.4) }),
    lights: [{ type: 'point', position: [0.5, 1.6, 0.3], intensityCd: [5, 5, 5], radiusM: 0.05, lightGroup: 1 }],
    ...(hasFog && { fog: { extinctionPerM: 0.2, albedo: [0.9, 0.9, 0.9], anisotropy: 0.3, topM: 0.3 } as const }),
  });
  return { what, hasFog };
}

let one: Engine;
let two: Engine;
beforeAll(async () => {
  [one, two] = [await openNodeEngine(1), await openNodeEngine(2)];
});
afterAll(async () => {
  await one.close();
  await two.close();
});
/** A picture, and by instance how often paths met it. */
async function take(e: Engine, what: EngineScene, more: Partial<RenderSettings> = {}) {
  await e.load(what, { ...FRAME, ...more });
  await e.render({ camera, samples: SAMPLES });
  const met = more.evidence
    ? e.evidence().map(({ times }) => Object.values(times).reduce((a: number, b: number) => a + b, 0))
    : [];
  return { picture: e.picture(), met };
}
const isSame = (a: Picture, b: Picture) => {
  expect(a.samples).toEqual(b.samples);
  expect(a.rgba).toEqual(b.rgba);
  expect(a.planes).toEqual(b.planes);
};

describe('what no path has met', () => {
  it('changes nothing when it is gone: the first, the last, any of it or all of it', async () => {
    let dropped = 0;
    let foggy = 0;
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 1, max: 1e9 }), async (seed, choice) => {
        const { what, hasFog } = sceneOf(seed);
        const { picture: full, met } = await take(one, what, { evidence: true });
        const random = numbers(choice);
        // emitters take part in every light pick: they stay
        const unmet = what.instances.flatMap((o, i) => (met[i] === 0 && o.material !== 6 ? [i] : []));
        if (!unmet.length) return;
        const some = new Set(unmet.filter(() => random() < 0.5));
        const part = [new Set([unmet[0]!]), new Set([unmet.at(-1)!]), some][choice % 3]!;
        for (const gone of [part, new Set(unmet)]) {
          const kept = { ...what, instances: what.instances.filter((_, i) => !gone.has(i)) };
          isSame((await take(random() < 0.5 ? one : two, kept)).picture, full);
        }
        dropped += unmet.length;
        foggy += Number(hasFog);
      }),
      { numRuns: 15 },
    );
    expect(dropped).toBeGreaterThan(20);
    expect(foggy).toBeGreaterThan(1);
  }, 120_000);

  it('is told apart from what was met and gave next to nothing', async () => {
    // under a nearly black floor lies one that is seen through glass alone, and one that is not seen at all
    const at = (y: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, y, 0, 1];
    const what = scene({
      meshes: [floor(2)],
      materials: [
        { ...matte, baseColor: [1e-5, 1e-5, 1e-5, 1] },
        { ...matte, transmission: 1, ior: 1.5, specular: 1, roughness: 0, baseColor: [1e-4, 1e-4, 1e-4, 1] },
      ],
      instances: [0, -1, -2].map((y) => ({
        name: `floor ${y}`,
        mesh: 0,
        material: y === 0 ? 1 : 0,
        matrix: at(y),
        mask: MASK.ALL,
      })),
      environment: constantSky(1),
    });
    await one.load(what, { ...FRAME, lightGroups: 0, evidence: true });
    await one.render({ camera, samples: 4 });
    const [, dim, hidden] = one.evidence();
    expect(dim!.refracted).toBe(0); // too little to be weighed
    expect(dim!.times.refracted).toBeGreaterThan(100);
    expect(Object.values(hidden!.times).every((n) => n === 0)).toBe(true);
  });
});

describe('a texture of which the finest levels are left out', () => {
  it('gives the same picture where they are not read, whatever its size', async () => {
    for (const [width, height] of [
      [64, 64],
      [101, 61],
      [37, 90],
    ] as const) {
      const random = numbers(width);
      const data = Uint8Array.from({ length: width * height * 4 }, (_, i) => (i % 4 < 3 ? random() * 255 : 255));
      const what = scene({
        meshes: [SHEET],
        textures: [{ name: 'fine', width, height, data }],
        materials: [{ ...matte, textures: colors(0) }],
        // so far and so slanted that half the texture's size is enough, at many fits
        instances: [0, 1, 2, 3, 4].map((k) => ({
          name: `sheet ${k}`,
          mesh: 0,
          material: 0,
          matrix: [1, 0.2 * k, 0, 0, 0, 1, 0, 0, 0, 0.3 * k, 1, 0, -2.4 + 1.2 * k, -2 - k * 1.3, 0, 1],
          mask: MASK.ALL,
        })),
        environment: constantSky(1),
      });
      const far = { ...downCamera(3, 2.4), lensRadiusM: 0 };
      const shot = async (more: Partial<RenderSettings>) => {
        await one.load(what, { ...settings(32, 24, 2), ...more });
        await one.render({ camera: far, samples: 8 });
        return one.picture().rgba;
      };
      const half = Math.max(width, height) >> 1;
      expect(await shot({ textureCapPx: half })).toEqual(await shot({}));
    }
  });
});
