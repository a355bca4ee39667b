// Shadow rays towards suns go another way through the kernel than all others (four together, from the front of their
// queue): the picture must not show it.
import { describe, expect, it } from 'vitest';
import { MASK, type EngineLight, type EngineScene } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import {
  IDENTITY,
  constantSky,
  downCamera,
  floor,
  matte,
  mean,
  scene,
  settings,
  shoot,
  sphere,
  translated,
} from './fixtures.ts';

const sun: EngineLight = {
  type: 'sun',
  direction: [0.6, -0.8, 0],
  illuminanceLux: [10, 10, 10],
  angularDiameterRad: 0,
};
const lamp: EngineLight = { type: 'point', position: [0, 3, 1], intensityCd: [20, 20, 20], radiusM: 0 };
/** A floor with balls above it, of which each throws a shadow. */
const stage = (lights: readonly EngineLight[], more: Partial<EngineScene> = {}): EngineScene =>
  scene({
    meshes: [floor(4), sphere(12, 0.3)],
    materials: [{ ...matte, baseColor: [0.6, 0.6, 0.6, 1] }],
    instances: [
      { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
      ...[
        [-1, 0],
        [0.5, 0.7],
        [0.2, -1.1],
      ].map(([x, z], i) => ({
        name: `ball ${i}`,
        mesh: 1,
        material: 0,
        matrix: translated(x!, 0.8, z!),
        mask: MASK.ALL,
      })),
    ],
    lights,
    ...more,
  });
const shot = (samples: number, bounces = 1) => ({
  camera: downCamera(6, 2),
  settings: settings(48, 48, bounces),
  samples,
});
/** Pixel of a point of the floor, seen straight from above. */
const at = (film: Float32Array, x: number, z: number): number => {
  const px = Math.floor(((x / 2 + 1) / 2) * 48);
  const py = Math.floor(((z / 2 + 1) / 2) * 48);
  return film[(py * 48 + px) * 4 + 1]!;
};

describe('a sun', () => {
  it('throws shadows where geometry says, and lights the rest as its angle says', async () => {
    const film = await shoot(stage([sun]), shot(4));
    const lit = (0.6 * 10 * 0.8) / Math.PI;
    // a ball 0.8 m up throws its shadow 0.6 m further along x for every 0.8 m of height
    for (const [x, z] of [
      [-0.4, 0],
      [1.1, 0.7],
      [0.8, -1.1],
    ] as const)
      expect(at(film, x, z), `shadow at ${x}, ${z}`).toBe(0);
    for (const [x, z] of [
      [-1.7, -1.6],
      [1.7, 1.7],
      [0, 1.5],
    ] as const)
      expect(at(film, x, z) / lit, `light at ${x}, ${z}`).toBeCloseTo(1, 3);
  });
  it('beside a lamp and a sky adds its own light, no more and no less', async () => {
    const film = async (lights: readonly EngineLight[], sky: boolean) =>
      mean(await shoot(stage(lights, sky ? { environment: constantSky(0.5) } : {}), shot(256, 3)));
    const all = await film([sun, lamp], true);
    const apart = (await film([sun], false)) + (await film([lamp], false)) + (await film([], true));
    expect(all / apart).toBeCloseTo(1, 2);
  });
  it('of several throws a shadow each', async () => {
    const other: EngineLight = { ...sun, direction: [-0.6, -0.8, 0] };
    const both = await shoot(stage([sun, other]), shot(128));
    const one = (0.6 * 10 * 0.8) / Math.PI;
    expect(at(both, -0.4, 0) / one).toBeCloseTo(1, 1); // in the shadow of one, in the light of the other
    expect(at(both, -1.6, 0) / one).toBeCloseTo(1, 1);
    expect(at(both, 0, 1.5) / (2 * one)).toBeCloseTo(1, 1);
  });
  it('gives the same picture to the bit for any number of threads and size of passes, and without a ball that throws no shadow into it', async () => {
    const base = await shoot(stage([sun, lamp], { environment: constantSky(0.2) }), shot(8, 3));
    for (const how of [{ threads: 2 }, { samplesPerPass: 1 }, { samplesPerPass: 3, threads: 2 }])
      expect(await shoot(stage([sun, lamp], { environment: constantSky(0.2) }), { ...shot(8, 3), ...how })).toEqual(
        base,
      );
    const far = stage([sun], {});
    const alone = await shoot(far, shot(4));
    expect(
      await shoot(
        {
          ...far,
          instances: [
            ...far.instances,
            { name: 'far ball', mesh: 1, material: 0, matrix: translated(500, 0.8, 500), mask: MASK.ALL },
          ],
        },
        shot(4),
      ),
    ).toEqual(alone);
  });
  it('gives the same picture while evidence is counted', async () => {
    const what = stage([sun]);
    const engine = await openNodeEngine(1);
    try {
      await engine.load(what, { ...shot(4).settings, evidence: { finer: 1 } });
      await engine.render({ camera: shot(4).camera, samples: 4 });
      expect(engine.picture().rgba).toEqual(await shoot(what, shot(4)));
    } finally {
      await engine.close();
    }
  });
});
