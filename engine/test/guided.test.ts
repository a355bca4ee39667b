// Directions that are drawn about lamps, and light samples of the sky or of lights alone: less noise, and no other
// light.
import { describe, expect, it } from 'vitest';
import { type EngineLight, type EngineScene, MASK, type Picture } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { IDENTITY, constantSky, downCamera, floor, matte, scene, settings } from './fixtures.ts';

const SIZE = 24;
const lamp: EngineLight = {
  type: 'point',
  position: [0, 0.7, 0],
  intensityCd: [5, 5, 5],
  radiusM: 0.02,
  lightGroup: 0,
};
/** So many that lights are picked by clusters, about which nothing is guided; they give next to nothing. */
const crowd: readonly EngineLight[] = Array.from({ length: 300 }, (_, i) => ({
  type: 'point',
  position: [400 + i, 50, 0],
  intensityCd: [1e-4, 1e-4, 1e-4],
  radiusM: 0.01,
  lightGroup: 0,
}));
/** A floor, and a small white card close beside the lamp, which lights it again. */
const room = (lights: readonly EngineLight[], sky: number): EngineScene =>
  scene({
    meshes: [floor(2), floor(0.12)],
    materials: [
      { ...matte, baseColor: [0.6, 0.6, 0.6, 1] },
      { ...matte, baseColor: [0.95, 0.95, 0.95, 1] },
    ],
    instances: [
      { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
      // upright, to the left of the lamp, facing it
      {
        name: 'card',
        mesh: 1,
        material: 1,
        matrix: [0, -1, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0, -0.15, 0.7, 0, 1],
        mask: MASK.ALL,
      },
    ],
    lights,
    ...(sky > 0 && { environment: constantSky(sky) }),
    environmentGroup: 1,
  });
async function take(what: EngineScene, samples: number, seed = 1): Promise<Picture> {
  const e = await openNodeEngine(2);
  try {
    await e.load(what, { ...settings(SIZE), seed, planes: ['indirect', 'moment'], lightGroups: 2 });
    // the card itself is cut away
    await e.render({ camera: { ...downCamera(4, 0.9), nearM: 3.5 }, samples });
    return e.picture();
  } finally {
    await e.close();
  }
}
const meanOf = (list: Float32Array): number => list.reduce((a, b) => a + b, 0) / list.length;

describe('what is bright beside a lamp', () => {
  it('lights what it lights with or without looking for it there, with much less noise', async () => {
    const [guided, plain] = [await take(room([lamp], 0), 512), await take(room([lamp, ...crowd], 0), 512)];
    const light = meanOf(guided.planes.indirect!);
    expect(light).toBeGreaterThan(0.01);
    expect(Math.abs(light / meanOf(plain.planes.indirect!) - 1)).toBeLessThan(0.02);
    const spread = (p: Picture) => {
      let sum = 0;
      for (let i = 0; i < SIZE * SIZE; i++) sum += p.planes.moment![i * 3]! - p.rgba[i * 4]! ** 2;
      return sum;
    };
    expect(spread(guided)).toBeLessThan(0.7 * spread(plain));
  });
});

describe('a dim sky over lamps, or a bright one', () => {
  it.each([0.002, 0.02, 0.2, 3, 60])('of %d nits gives what it gives alone', async (sky) => {
    const both = await take(room([lamp], sky), 1024);
    const alone = await take(room([], sky), 1024);
    const floats = SIZE * SIZE * 3;
    const ofSky = meanOf(both.planes.groups!.subarray(floats));
    const ofLamp = meanOf(both.planes.groups!.subarray(0, floats));
    expect(Math.abs(ofSky / meanOf(alone.planes.groups!.subarray(floats)) - 1)).toBeLessThan(0.02);
    const lampAlone = await take(room([lamp], 0), 1024, 3);
    expect(Math.abs(ofLamp / meanOf(lampAlone.planes.groups!.subarray(0, floats)) - 1)).toBeLessThan(0.02);
  });
});
