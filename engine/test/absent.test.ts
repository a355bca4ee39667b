// The law that culling stands on, tried on scenes of all kinds: what no path has met makes no difference, to the bit,
// wherever in the scene it stood and whatever else goes with it.
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Engine, type EngineScene, MASK, type Picture, type RenderSettings } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { constantSky, downCamera, floor, matte, scene, settings } from './fixtures.ts';
import { FRAME, GLOW, SHEET, camera, colors, sceneOf } from './randomScenes.ts';
import { numbers } from './soup.ts';

const SAMPLES = 17;

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
        const { picture: full, met } = await take(one, what, { evidence: { finer: 1 } });
        const random = numbers(choice);
        // emitters take part in every light pick: they stay
        const unmet = what.instances.flatMap((o, i) => (met[i] === 0 && o.material !== GLOW ? [i] : []));
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
    await one.load(what, { ...FRAME, lightGroups: 0, evidence: { finer: 1 } });
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
