// Lamps with a radius are balls of even radiance: their irradiance is that of a point, and they look the same from
// everywhere.
import { describe, expect, it } from 'vitest';
import { MASK, type EngineLight, type EngineMaterial } from '../host/index.ts';
import {
  IDENTITY,
  downCamera,
  floor,
  matte,
  mean,
  one,
  scene,
  settings,
  shoot,
  sphere,
  translated,
} from './fixtures.ts';

const bulb = (x: number, y: number, radiusM: number, more: object = {}): EngineLight => ({
  type: 'point',
  position: [x, y, 0],
  intensityCd: [5, 5, 5],
  radiusM,
  ...more,
});
const metal = (roughness: number): EngineMaterial => ({ ...matte, metallic: 1, roughness });
/** A small spot straight below the camera. */
const spot = (samples: number) => ({ camera: downCamera(0.4, 0.004), settings: settings(16, 16, 1), samples });
const under = (light: EngineLight, material: EngineMaterial, samples = 256) =>
  shoot(scene({ ...one(floor(4), material), lights: [light] }), spot(samples)).then((f) => mean(f));

describe('a round lamp', () => {
  it.each([0, 0.05, 0.3, 0.49])('of radius %s lights a floor half a metre away as a point does', async (radius) => {
    expect((await under(bulb(0, 0.5, radius), matte)) / (5 / 0.25 / Math.PI)).toBeCloseTo(1, 2);
  });
  it.each([0, 0.1, 0.5, 0.79])(
    'of radius %s lights it from aside as a point does, a whole ball above the floor',
    async (radius) => {
      expect((await under(bulb(0.6, 0.8, radius), matte, 1024)) / ((5 * 0.8) / Math.PI)).toBeCloseTo(1, 2);
    },
  );
  it('far away and small, it loses nothing to rounding', async () => {
    expect((await under(bulb(0, 900, 0.002), matte)) / (5 / 900 ** 2 / Math.PI)).toBeCloseTo(1, 3);
  });

  it('is evenly bright to its rim in a mirror, and of the size that it has', async () => {
    // the camera at 1 m sees the bulb 0.5 m behind the mirror: a disc of asin(0.3 / 1.5)
    const px = 64;
    const film = await shoot(scene({ ...one(floor(4), metal(0)), lights: [bulb(0, 0.5, 0.3)] }), {
      camera: downCamera(1, 0.4),
      settings: settings(px, px, 2),
      samples: 64,
    });
    const edge = (Math.tan(Math.asin(0.3 / 1.5)) / 0.4) * (px / 2);
    const radiance = 5 / (Math.PI * 0.09);
    const ring = (from: number, to: number) => {
      const own: number[] = [];
      for (let y = 0; y < px; y++)
        for (let x = 0; x < px; x++) {
          const off = Math.hypot(x + 0.5 - px / 2, y + 0.5 - px / 2);
          if (off >= from && off < to) own.push(film[(y * px + x) * 4 + 1]! / radiance);
        }
      return own;
    };
    for (const [from, to] of [
      [0, edge * 0.5],
      [edge - 4, edge - 1.5],
    ] as const) {
      const own = ring(from, to);
      expect(own.reduce((a, v) => a + v, 0) / own.length).toBeCloseTo(1, 2);
    }
    expect(Math.max(...ring(edge + 2.5, px))).toBeLessThan(1e-3);
  });

  it.each([
    ['matt', matte],
    ['of rough metal', metal(0.5)],
    ['of metal so smooth that scattered rays meet the lamp', metal(0.2)],
  ])('lights a floor %s as a glowing ball of its size does', async (_name, material) => {
    const r = 0.3;
    const film = await shoot(
      scene({
        meshes: [floor(4), sphere(96, r)],
        materials: [
          material,
          {
            ...matte,
            baseColor: [0, 0, 0, 1],
            emission: [1, 1, 1].map(() => 5 / (Math.PI * r * r)) as never,
            doubleSided: false,
          },
        ],
        instances: [
          { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
          { name: 'ball', mesh: 1, material: 1, matrix: translated(0.25, 0.6, 0), mask: MASK.ALL & ~MASK.CAMERA },
        ],
      }),
      spot(1024),
    );
    expect((await under(bulb(0.25, 0.6, r), material, 1024)) / mean(film)).toBeCloseTo(1, 1.7);
  });

  it.each([
    ['matt', matte],
    ['of smooth metal', metal(0.2)],
  ])('around the very place that it lights is as bright as at its skin, on a floor %s', async (_name, material) => {
    const at = (y: number) => under(bulb(0, y, 0.1), material, 1024);
    const skin = await at(0.1001);
    if (material === matte) expect(skin / (5 / 0.01 / Math.PI)).toBeCloseTo(1, 1.7);
    for (const y of [0.09, 0.06, 0.03]) expect((await at(y)) / skin).toBeCloseTo(1, 1.7);
  });
  it('of a spot keeps to its cones', async () => {
    const light = (direction: readonly number[]): EngineLight =>
      ({ ...bulb(0, 2, 0.1), type: 'spot', direction, innerConeRad: 0.2, outerConeRad: 0.3 }) as never;
    expect((await under(light([0, -1, 0]), matte)) / (5 / 4 / Math.PI)).toBeCloseTo(1, 2);
    expect(await under(light([1, -1, 0]), matte)).toBe(0);
  });
});
