// Panes: thin clear glass, which light goes straight through. Held against Fresnel's equations, against nothing being
// there, and against glass just rough enough to be met by scattered paths alone.
import { describe, expect, it } from 'vitest';
import { MASK, type EngineLight, type EngineMaterial, type EngineScene } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import {
  IDENTITY,
  constantSky,
  downCamera,
  floor,
  glow,
  matte,
  mean,
  scene,
  settings,
  shoot,
  translated,
} from './fixtures.ts';

const glass = (extra: Partial<EngineMaterial> = {}): EngineMaterial => ({
  ...matte,
  transmission: 1,
  ior: 1.5,
  specular: 1,
  roughness: 0,
  ...extra,
});
/** Index 1: it neither mirrors nor takes anything. */
const nothing = glass({ ior: 1, specular: 0 });
const shiny: EngineMaterial = { ...matte, metallic: 1, roughness: 0.3, baseColor: [0.8, 0.8, 0.8, 1] };
/** A floor, the panes above the camera one over another, lamps above them. */
const under = (
  panes: readonly EngineMaterial[],
  parts: Partial<EngineScene>,
  ground = matte,
  mask = MASK.ALL,
): EngineScene =>
  scene({
    meshes: [floor(1), floor(30)],
    materials: [ground, ...panes],
    instances: [
      { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
      ...panes.map((_, i) => ({
        name: `pane ${i}`,
        mesh: 1,
        material: i + 1,
        matrix: translated(0, 1.1 + i * 0.001, 0),
        mask,
      })),
    ],
    ...parts,
  });
const spot = (samples: number, maxBounces = 1) => ({
  camera: downCamera(1, 0.01),
  settings: settings(16, 16, maxBounces),
  samples,
});
const bulb = (x: number, radiusM = 0): EngineLight => ({
  type: 'point',
  position: [x, 2, 0],
  intensityCd: [5, 5, 5],
  radiusM,
});
const down = [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 1.8, 0, 1];
const halfSky = (() => {
  const whole = constantSky(2);
  return { ...whole, data: whole.data.map((x, i) => (Math.floor(i / 3) % 16 < 5 ? x * 3 : 0)) };
})();
const panel: Partial<EngineScene> = { meshes: [floor(1), floor(30), floor(0.4)] };
const lamps: readonly (readonly [string, Partial<EngineScene>])[] = [
  ['a sun', { lights: [{ type: 'sun', direction: [0.3, -1, 0], illuminanceLux: [3, 3, 3], angularDiameterRad: 0.1 }] }],
  ['a bulb of no size', { lights: [bulb(0.5)] }],
  ['a round bulb', { lights: [bulb(0.3, 0.25)] }],
  ['a rectangle', { lights: [{ type: 'rectangle', matrix: down, widthM: 1, heightM: 1, radianceNits: [3, 3, 3] }] }],
  ['a sky bright on one side', { environment: halfSky }],
];

describe('a pane', () => {
  it('takes from the light of a bulb of no size what Fresnel says, and gives it its colour', async () => {
    const fresnel = (degrees: number) => {
      // of unpolarised light into index 1.5 (Born & Wolf)
      const i = (degrees * Math.PI) / 180;
      const t = Math.asin(Math.sin(i) / 1.5);
      return degrees
        ? (Math.sin(i - t) ** 2 / Math.sin(i + t) ** 2 + Math.tan(i - t) ** 2 / Math.tan(i + t) ** 2) / 2
        : 0.04;
    };
    for (const degrees of [0, 30, 60, 75]) {
      const x = 2 * Math.tan((degrees * Math.PI) / 180);
      const d2 = 4 + x * x;
      const film = await shoot(under([glass({ baseColor: [0.5, 0.8, 1, 1] })], { lights: [bulb(x)] }), spot(16));
      const open = ((5 / d2) * (2 / Math.sqrt(d2))) / Math.PI;
      [0.5, 0.8, 1].forEach((tint, k) =>
        expect(mean(film, k) / (open * tint * (1 - fresnel(degrees)))).toBeCloseTo(1, 2),
      );
    }
  });
  it('behind panes weakens once for each', async () => {
    const film = await shoot(under([glass(), glass(), glass()], { lights: [bulb(0)] }), spot(16));
    expect(mean(film) / ((5 / 4 / Math.PI) * 0.96 ** 3)).toBeCloseTo(1, 2);
  });
  it('that casts no shadow takes nothing', async () => {
    expect(
      mean(await shoot(under([glass()], { lights: [bulb(0)] }, matte, MASK.ALL & ~MASK.SHADOW), spot(16))) /
        (5 / 4 / Math.PI),
    ).toBeCloseTo(1, 2);
  });
  it('with a coat also loses what the coat mirrors', async () => {
    const film = await shoot(under([glass({ coat: 1, coatRoughness: 0 })], { lights: [bulb(0)] }), spot(16));
    expect(mean(film) / ((5 / 4 / Math.PI) * 0.96 ** 2)).toBeCloseTo(1, 2);
  });
  it('half of which is covered lets half through', async () => {
    const film = await shoot(
      under([glass({ ior: 1, specular: 0, alphaMode: 'blend', baseColor: [0, 0, 0, 0.5] })], { lights: [bulb(0)] }),
      spot(512),
    );
    expect(mean(film) / (5 / 4 / Math.PI)).toBeCloseTo(0.5, 1.5);
  });
  it('stops light at the sixty-fifth', async () => {
    const through = async (n: number) =>
      mean(await shoot(under(Array<EngineMaterial>(n).fill(nothing), { lights: [bulb(0)] }), spot(4)));
    expect((await through(64)) / (5 / 4 / Math.PI)).toBeCloseTo(1, 2);
    expect(await through(65)).toBe(0);
  });
});

describe.each(lamps)('under %s', (_name, parts) => {
  it.each([
    ['a matte floor', matte],
    ['a half-smooth floor', shiny],
  ] as const)('a pane that takes nothing changes nothing, though the path ends at it: %s', async (_floor, ground) => {
    const open = mean(await shoot(under([], parts, ground), spot(256)));
    const covered = mean(await shoot(under([nothing], parts, ground), spot(256)));
    expect(open).toBeGreaterThan(0);
    expect(covered / open).toBeGreaterThan(0.995);
    expect(covered / open).toBeLessThan(1.005);
  });
});

describe('a tinted pane', () => {
  it.each(lamps.slice(3))(
    'under %s lets through what one does that is just too rough to be a pane',
    async (_name, parts) => {
      const tint = { baseColor: [0.9, 0.6, 0.3, 1] as const };
      const dark = { ...shiny, baseColor: [0.4, 0.4, 0.4, 1] as const }; // roughness² is held against 0.002
      const clear = await shoot(under([glass(tint)], parts, dark), spot(512, 4));
      const rough = await shoot(under([glass({ ...tint, roughness: 0.046 })], parts, dark), spot(2048, 4));
      for (const k of [0, 1, 2]) expect(mean(clear, k) / mean(rough, k)).toBeCloseTo(1, 1.3);
    },
  );
  it('that glows itself lights as one that is not glass', async () => {
    const over = (m: EngineMaterial): EngineScene => ({
      ...under([], panel),
      materials: [matte, m],
      instances: [
        { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
        {
          name: 'lamp',
          mesh: 2,
          material: 1,
          matrix: [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0, 0, 1.4, 0, 1],
          mask: MASK.ALL & ~MASK.CAMERA,
        },
      ],
    });
    const plain = mean(await shoot(over(glow([3, 3, 3])), spot(256)));
    const glowing = mean(await shoot(over({ ...nothing, emission: [3, 3, 3], doubleSided: false }), spot(256)));
    expect(glowing / plain).toBeCloseTo(1, 2);
  });
});

describe('what the camera sees through a pane', () => {
  const window = (parts: Partial<EngineScene> = {}) => ({
    ...under([nothing], { lights: [bulb(0.3, 0.2)], ...parts }, matte),
  });
  it('is direct light where a lamp lights it, and as bright at the last bounce', async () => {
    const e = await openNodeEngine(1);
    const planes = ['direct', 'indirect'] as const;
    try {
      await e.load(window(), { ...settings(16, 16, 1), planes: [...planes] });
      await e.render({ camera: downCamera(1.5, 0.01), samples: 64 });
      const p = e.picture();
      const sum = (x: Float32Array) => x.reduce((a, b) => a + b, 0);
      expect(sum(p.planes.indirect!)).toBe(0);
      expect(sum(p.planes.direct!) / 3 / (mean(p.rgba) * 256)).toBeCloseTo(1, 4);
      expect(mean(p.rgba) / mean(await shoot(under([], { lights: [bulb(0.3, 0.2)] }), spot(64)))).toBeCloseTo(1, 1.5);
    } finally {
      await e.close();
    }
  });
  it('does not show the disc of a sun, which it would not show without', async () => {
    const up = { ...downCamera(1, 0.01), matrix: [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0, 0, 0.5, 0, 1] };
    const film = await shoot(
      {
        ...window(),
        lights: [{ type: 'sun', direction: [0, -1, 0], illuminanceLux: [1, 1, 1], angularDiameterRad: 0.2 }],
      },
      { ...spot(4), camera: up },
    );
    expect(Math.max(...film.filter((_, i) => i % 4 < 3))).toBe(0);
  });
  it('is the same to the bit on one thread and on two, in one pass or several, and with the checks of a debug build', async () => {
    const what = under(
      [glass(), glass({ baseColor: [0.9, 0.7, 0.5, 1] })],
      {
        lights: [
          bulb(0.3, 0.2),
          { type: 'sun', direction: [0.3, -1, 0], illuminanceLux: [3, 3, 3], angularDiameterRad: 0.1 },
        ],
        environment: halfSky,
      },
      shiny,
    );
    const how = { camera: downCamera(1.5, 0.8), settings: settings(96, 64, 4), samples: 6 };
    const once = await shoot(what, how);
    expect(await shoot(what, { ...how, threads: 2 })).toEqual(once);
    expect(await shoot(what, { ...how, samplesPerPass: 1 })).toEqual(once);
    expect(await shoot(what, { ...how, debug: true })).toEqual(once);
  });
});
