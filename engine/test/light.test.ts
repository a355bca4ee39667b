// The engine against answers known in closed form.
import { describe, expect, it } from 'vitest';
import { MASK, type EngineLight, type EngineMaterial } from '../host/index.ts';
import {
  IDENTITY,
  constantSky,
  downCamera,
  floor,
  frontCamera,
  matte,
  mean,
  one,
  scene,
  settings,
  shoot,
  sphere,
  translated,
} from './fixtures.ts';

const grey = (base: number, extra: Partial<EngineMaterial> = {}): EngineMaterial => ({
  ...matte,
  baseColor: [base, base, base, 1],
  ...extra,
});
/** A small spot straight below the camera, so that the answer at the centre holds for the whole picture. */
const spot = (samples: number) => ({ camera: downCamera(1, 0.01), settings: settings(16, 16, 1), samples });

describe.each([false, true])('furnace (assertions %s)', (debug) => {
  it.each([
    ['white matte', matte],
    ['white with a rough clear surface', grey(1, { ior: 1.5, specular: 1, roughness: 0.6 })],
    ['white with a smooth clear surface', grey(1, { ior: 1.5, specular: 1, roughness: 0.1 })],
    ['white metal, rough', grey(1, { metallic: 1, roughness: 1 })],
    ['white metal, half rough', grey(1, { metallic: 1, roughness: 0.5 })],
    ['white metal, mirror', grey(1, { metallic: 1, roughness: 0 })],
    ['clear glass', grey(1, { transmission: 1, ior: 1.5, specular: 1, roughness: 0, solid: true })],
    ['thin frosted glass', grey(1, { transmission: 1, ior: 1.5, specular: 1, roughness: 0 })],
  ])('a sphere that is %s cannot be seen in white surroundings', async (_name, material) => {
    const film = await shoot(scene({ ...one(sphere(), material), environment: constantSky(1) }), {
      camera: frontCamera(6, 0.22),
      settings: settings(32, 32, 64),
      samples: 64,
      debug,
    });
    expect(mean(film, 3)).toBeGreaterThan(0.4); // it is there
    expect(Math.abs(mean(film) - 1)).toBeLessThan(0.005);
  });
});

describe('irradiance', () => {
  const lit = (light: EngineLight, material = matte) => scene({ ...one(floor(1), material), lights: [light] });

  it('of a sun is its illuminance times the cosine, over π', async () => {
    const angle = Math.PI / 3;
    const film = await shoot(
      lit({
        type: 'sun',
        direction: [Math.sin(angle), -Math.cos(angle), 0],
        illuminanceLux: [10, 10, 10],
        angularDiameterRad: 0.0093,
      }),
      spot(64),
    );
    expect(mean(film) / ((10 * Math.cos(angle)) / Math.PI)).toBeCloseTo(1, 2);
  });

  it('of a point light falls with the square of the distance', async () => {
    const at = (y: number): EngineLight => ({ type: 'point', position: [0, y, 0], intensityCd: [5, 5, 5], radiusM: 0 });
    const near = mean(await shoot(lit(at(0.5)), spot(16)));
    const far = mean(await shoot(lit(at(2)), { ...spot(16), camera: downCamera(1, 0.01) }));
    expect(near / (5 / 0.25 / Math.PI)).toBeCloseTo(1, 2);
    expect(far / (5 / 4 / Math.PI)).toBeCloseTo(1, 2);
  });

  it('of a spot is that of a point inside its inner cone and nothing outside its outer cone', async () => {
    const light = (direction: readonly [number, number, number]): EngineLight => ({
      type: 'spot',
      position: [0, 2, 0],
      direction,
      intensityCd: [5, 5, 5],
      radiusM: 0,
      innerConeRad: 0.2,
      outerConeRad: 0.3,
    });
    expect(mean(await shoot(lit(light([0, -1, 0])), spot(16))) / (5 / 4 / Math.PI)).toBeCloseTo(1, 2);
    expect(mean(await shoot(lit(light([1, -1, 0])), spot(16)))).toBe(0);
  });

  /**
   * Irradiance below the centre of a parallel rectangle a × b at height h, per unit radiance (form factor of a
   * differential element × π; Siegel & Howell).
   */
  const rectangleIrradiance = (a: number, b: number, h: number) => {
    const X = a / 2 / h;
    const Y = b / 2 / h;
    return (
      4 *
      0.5 *
      ((X / Math.hypot(1, X)) * Math.atan(Y / Math.hypot(1, X)) +
        (Y / Math.hypot(1, Y)) * Math.atan(X / Math.hypot(1, Y)))
    );
  };
  it('under a rectangle matches the form factor', async () => {
    // local −Z must point down: turn about X by −90°
    const matrix = [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 1.5, 0, 1];
    const film = await shoot(lit({ type: 'rectangle', matrix, widthM: 1, heightM: 2, radianceNits: [3, 3, 3] }), {
      ...spot(256),
      camera: downCamera(1, 0.01),
    });
    expect(mean(film) / ((3 * rectangleIrradiance(1, 2, 1.5)) / Math.PI)).toBeCloseTo(1, 2);
  });

  it('of a light without shadows goes through what stands in the way, and is the same without it, by chance or by scattering', async () => {
    // a lid between the floor and the lamps, which only shadow rays meet; the half-smooth floor also sends rays to the
    // lamp that see the lid
    const lid = { name: 'lid', mesh: 1, material: 0, matrix: translated(0, 0.7, 0), mask: MASK.ALL & ~MASK.CAMERA };
    const shiny = grey(0.5, { metallic: 1, roughness: 0.3 });
    const down = [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 1.5, 0, 1];
    const under = (light: EngineLight, material: EngineMaterial, covered: boolean) =>
      scene({
        meshes: [floor(1), floor(2)],
        materials: [matte, material],
        instances: [
          { name: 'floor', mesh: 0, material: 1, matrix: IDENTITY, mask: MASK.ALL },
          ...(covered ? [lid] : []),
        ],
        lights: [light],
      });
    const lamps: EngineLight[] = [
      { type: 'sun', direction: [0, -1, 0], illuminanceLux: [3, 3, 3], angularDiameterRad: 0.1 },
      { type: 'point', position: [0, 1.5, 0], intensityCd: [2, 2, 2], radiusM: 0.3 },
      { type: 'rectangle', matrix: down, widthM: 1, heightM: 1, radianceNits: [3, 3, 3] },
    ];
    for (const lamp of lamps)
      for (const material of [matte, shiny]) {
        const how = { camera: downCamera(0.6, 0.05), settings: settings(16, 16, 1), samples: 256 };
        const shot = async (light: EngineLight, covered: boolean) =>
          mean(await shoot(under(light, material, covered), how));
        const open = await shot(lamp, false);
        const through = await shot({ ...lamp, shadowless: true }, true);
        expect(await shot(lamp, true)).toBeLessThan(open * 0.01);
        expect(through / open).toBeCloseTo(1, 1);
      }
  });
  it('under a ball is that of a sphere, by its solid angle, wherever it is turned', async () => {
    const [radius, height, nits] = [0.25, 1.2, 3];
    // (Lambert) a sphere that is wholly above the surface: E = π L (r/d)² cos θ
    const wanted = (nits * radius ** 2) / height ** 2;
    const matrix = translated(0, height, 0);
    const film = await shoot(lit({ type: 'ball', matrix, radiusM: radius, radianceNits: [nits, nits, nits] }), {
      ...spot(512),
      settings: settings(32, 32, 1),
    });
    expect(mean(film) / wanted).toBeCloseTo(1, 2);
  });

  it('of a panel does not depend on whether the camera sees it, and seen it is as bright as it is', async () => {
    const down = [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 1, 0, 1];
    const panels: readonly EngineLight[] = [
      { type: 'rectangle', matrix: translated(0, 0, 0), widthM: 4, heightM: 4, radianceNits: [3, 2, 1] },
      { type: 'disc', matrix: translated(0, 0, 0), radiusM: 3, radianceNits: [3, 2, 1] },
      { type: 'ball', matrix: translated(0, 0, 0), radiusM: 1, radianceNits: [3, 2, 1] },
    ];
    const behind = frontCamera(3, 0.05);
    for (const light of panels) {
      const shot = { camera: behind, settings: settings(8, 8, 1), samples: 4 };
      const turned = { ...light, matrix: [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, -1, 0, 0, 0, 0, 1] } as EngineLight;
      const only = (l: EngineLight) => ({ ...lit(l), instances: [] });
      const seen = await shoot(only({ ...turned, seenByCamera: true } as EngineLight), shot);
      expect(
        [...seen.slice(0, 3)].map((x) => Number(x.toFixed(4))),
        light.type,
      ).toEqual([3, 2, 1]);
      expect(mean(await shoot(only(turned), shot)), light.type).toBe(0);
    }
    const above = { type: 'disc', matrix: down, radiusM: 0.4, radianceNits: [3, 3, 3] } as const;
    const under = (seenByCamera: boolean) => shoot(lit({ ...above, seenByCamera }), spot(64));
    expect([...(await under(true))]).toEqual([...(await under(false))]);
  });

  it('under an emitting mesh equals that under a rectangle light of the same size', async () => {
    const panel = { ...floor(0.5), name: 'panel' };
    const lamp = grey(0, { emission: [3, 3, 3], doubleSided: false });
    const down = [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0, 0, 1.5, 0, 1]; // half a turn about X
    const film = await shoot(
      scene({
        meshes: [floor(1), panel],
        materials: [matte, lamp],
        instances: [
          { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
          { name: 'panel', mesh: 1, material: 1, matrix: down, mask: MASK.ALL },
        ],
      }),
      spot(256),
    );
    expect(mean(film) / ((3 * rectangleIrradiance(1, 1, 1.5)) / Math.PI)).toBeCloseTo(1, 2);
  });

  it('under a half sky is half of that under a whole one', async () => {
    const whole = constantSky(2);
    const half = { ...whole, data: whole.data.map((x, i) => (Math.floor(i / 3) % 16 < 8 ? x : 0)) };
    const w = mean(await shoot(scene({ ...one(floor()), environment: whole }), spot(256)));
    const h = mean(await shoot(scene({ ...one(floor()), environment: half }), spot(256)));
    expect(w).toBeCloseTo(2, 2);
    expect(h / w).toBeCloseTo(0.5, 1);
  });
});

describe('visibility', () => {
  it('an object that the camera does not see still casts its shadow', async () => {
    const light: EngineLight = { type: 'sun', direction: [0, -1, 0], illuminanceLux: [1, 1, 1], angularDiameterRad: 0 };
    const withLid = (mask: number) =>
      scene({
        meshes: [floor(1)],
        materials: [matte],
        lights: [light],
        instances: [
          { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
          { name: 'lid', mesh: 0, material: 0, matrix: translated(0, 0.5, 0), mask },
        ],
      });
    expect(mean(await shoot(withLid(MASK.ALL & ~MASK.CAMERA), spot(4)))).toBe(0);
    expect(mean(await shoot(withLid(0), spot(4)))).toBeCloseTo(1 / Math.PI, 3);
  });
});

describe('many lights', () => {
  it('a thousand lamps give the sum of what each gives', async () => {
    const lamps: EngineLight[] = Array.from({ length: 1000 }, (_, i) => ({
      type: 'point',
      position: [((i * 37) % 101) / 5 - 10, 0.5 + ((i * 13) % 17) / 8, ((i * 61) % 103) / 5 - 10],
      intensityCd: [0.1 + (i % 5), 1, 1],
      radiusM: 0,
    }));
    const film = await shoot(scene({ ...one(floor(1)), lights: lamps }), {
      ...spot(1024),
      settings: settings(8, 8, 1),
    });
    const expected =
      lamps.reduce((sum, l) => {
        const [x, y, z] = (l as { position: readonly [number, number, number] }).position;
        const d2 = x * x + y * y + z * z;
        return sum + ((l as { intensityCd: readonly number[] }).intensityCd[0]! * (y / Math.sqrt(d2))) / d2;
      }, 0) / Math.PI;
    expect(mean(film, 0) / expected).toBeCloseTo(1, 1.7);
  });
  it('three hundred glowing panels give what two halves of them give together, also where scattered rays meet them', async () => {
    const panels = (from: number, to: number) =>
      scene({
        meshes: [floor(2), floor(0.05)],
        materials: [
          { ...matte, metallic: 1, roughness: 0.4, baseColor: [0.8, 0.8, 0.8, 1] },
          { ...grey(0), emission: [30, 30, 30], doubleSided: false },
        ],
        instances: [
          { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
          ...Array.from({ length: 300 }, (_, i) => i)
            .slice(from, to)
            .map((i) => ({
              name: `panel ${i}`,
              mesh: 1,
              material: 1,
              matrix: [
                1,
                0,
                0,
                0,
                0,
                -1,
                0,
                0,
                0,
                0,
                -1,
                0,
                (i % 20) * 0.3 - 3,
                0.6 + (i % 7) * 0.1,
                Math.floor(i / 20) * 0.4 - 3,
                1,
              ],
              mask: MASK.ALL & ~MASK.CAMERA,
            })),
        ],
      });
    const at = async (from: number, to: number) =>
      mean(await shoot(panels(from, to), { ...spot(2048), settings: settings(8, 8, 1) }));
    expect((await at(0, 300)) / ((await at(0, 150)) + (await at(150, 300)))).toBeCloseTo(1, 1.5);
  });
});
