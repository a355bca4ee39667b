// Lens, fog, alpha, lamps and environments against answers known in closed form.
import { describe, expect, it } from 'vitest';
import { MASK, type EngineCamera, type EngineLight, type EngineMaterial, type EngineScene } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import {
  IDENTITY,
  constantSky,
  downCamera,
  floor,
  frontCamera,
  glow,
  matte,
  mean,
  one,
  scene,
  settings,
  shoot,
  sphere,
  translated,
} from './fixtures.ts';

const dark: EngineMaterial = { ...matte, baseColor: [0, 0, 0, 1] };
/** A square of half size at a place, facing +Z, glowing. */
const card = (half: number, at: readonly [number, number, number], nits = 1): EngineScene =>
  scene({
    ...one(floor(half), { ...glow([nits, nits, nits]), doubleSided: true }, [
      1,
      0,
      0,
      0,
      0,
      0,
      -1,
      0,
      0,
      1,
      0,
      0,
      ...at,
      1,
    ]),
  });
/** Columns and rows of the picture's weight. */
function centre(film: Float32Array, width: number): { x: number; y: number; sum: number; spread: number } {
  let sum = 0;
  let sx = 0;
  let sy = 0;
  let sxx = 0;
  for (let i = 0; i < film.length / 4; i++) {
    const v = film[i * 4]!;
    sum += v;
    sx += v * ((i % width) + 0.5);
    sy += v * (Math.floor(i / width) + 0.5);
    sxx += v * ((i % width) + 0.5) ** 2;
  }
  return { x: sx / sum, y: sy / sum, sum, spread: Math.sqrt(Math.max(0, sxx / sum - (sx / sum) ** 2)) };
}

describe('the lens', () => {
  const shot = { settings: settings(100, 50, 0), samples: 64 };
  it('shows a point at exactly the pixel that it projects to', async () => {
    const { x, y } = centre(await shoot(card(0.01, [0.6, -0.2, 0]), { ...shot, camera: frontCamera(4, 0.25) }), 100);
    // tangent of the half angle 0.25 vertically, 0.5 horizontally: x = 50 (1 + 0.6/4/0.5), y = 25 (1 + 0.2/4/0.25)
    expect(Math.abs(x - 65)).toBeLessThan(0.1);
    expect(Math.abs(y - 30)).toBeLessThan(0.1);
  });
  it('shift moves the picture and bends no verticals', async () => {
    const { x, y } = centre(
      await shoot(card(0.01, [0.6, -0.2, 0]), {
        ...shot,
        camera: { ...frontCamera(4, 0.25), shiftX: 0.1, shiftY: 0.2 },
      }),
      100,
    );
    expect(Math.abs(x - 55)).toBeLessThan(0.1);
    expect(Math.abs(y - 40)).toBeLessThan(0.1); // right and up shifts of 10 % of the width and 20 % of the height
  });
  it('orthographic keeps sizes at any distance', async () => {
    for (const z of [0, -20]) {
      const { sum } = centre(
        await shoot(card(0.5, [0, 0, z]), { ...shot, camera: { ...frontCamera(4, 2), projection: 'orthographic' } }),
        100,
      );
      expect(sum).toBeCloseTo(((1 / 4) * 50) ** 2, -1);
    }
  });
  it('blurs a point out of focus to the circle of confusion, and none in focus', async () => {
    const lens: EngineCamera = { ...frontCamera(4, 0.25), lensRadiusM: 0.1, focusDistanceM: 4 };
    const sharp = centre(await shoot(card(0.01, [0, 0, 0]), { ...shot, camera: lens, samples: 256 }), 100);
    const blurred = centre(await shoot(card(0.05, [0, 0, -4], 100), { ...shot, camera: lens, samples: 1024 }), 100);
    expect(sharp.spread).toBeLessThan(0.7);
    // at twice the focus distance the cone is as wide as the lens again at 4 m: radius 0.1 × (8 − 4)/4 = 0.1 m there at
    // 8 m, seen as 0.1/8/0.5 × 50 px; a disc's spread is half its radius
    const radius = ((0.1 * (8 - 4)) / 4 / 8 / 0.5) * 50;
    // with the reconstruction filter's spread and the card's own
    const expected = Math.sqrt((radius / 2) ** 2 + 1 / 6 + ((0.05 / 8 / 0.5) * 50) ** 2 / 3);
    expect(blurred.spread / expected).toBeGreaterThan(0.93);
    expect(blurred.spread / expected).toBeLessThan(1.07);
  });
  it('blades make the blur a polygon of the same light', async () => {
    const at = (blades?: number) =>
      shoot(card(0.04, [0, 0, -4], 100), {
        ...shot,
        camera: { ...frontCamera(4, 0.25), lensRadiusM: 0.3, focusDistanceM: 4, ...(blades && { blades }) },
        samples: 512,
      });
    const round = centre(await at(), 100);
    const square = await at(4);
    const four = centre(square, 100);
    expect(Math.abs(four.sum / round.sum - 1)).toBeLessThan(0.08);
    const column = (film: Float32Array, x: number) => {
      let s = 0;
      for (let y = 0; y < 50; y++) if (film[(y * 100 + x) * 4]! > 0) s++;
      return s;
    };
    // a square on its corner narrows towards its sides
    expect(column(square, 50)).toBeGreaterThan(1.5 * column(square, 50 + Math.round((column(square, 50) / 2) * 0.62)));
  });
  it('near and far planes clip what the camera sees, and nothing else', async () => {
    const lid = scene({
      meshes: [floor(1)],
      materials: [matte],
      instances: [
        { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
        { name: 'lid', mesh: 0, material: 0, matrix: translated(0, 0.5, 0), mask: MASK.ALL },
      ],
      lights: [{ type: 'sun', direction: [0, -1, 0], illuminanceLux: [1, 1, 1], angularDiameterRad: 0 }],
    });
    const seen = await shoot(lid, {
      camera: { ...downCamera(1, 0.1), nearM: 0.7 },
      settings: settings(8, 8, 1),
      samples: 4,
    });
    expect(mean(seen, 3)).toBe(1); // the floor is there
    expect(mean(seen)).toBe(0); // in the lid's shadow
  });
});

describe('fog', () => {
  it('lets light through by Beer–Lambert', async () => {
    const film = await shoot(
      { ...card(1, [0, 0, 0]), fog: { extinctionPerM: 0.4, albedo: [0, 0, 0], anisotropy: 0, topM: Infinity } },
      { camera: frontCamera(3, 0.05), settings: settings(32, 32, 2), samples: 64 },
    );
    expect(mean(film) / Math.exp(-0.4 * 3)).toBeCloseTo(1, 1.5);
  });
  it('hides by a share, not by chance: one sample sees what glows behind it exactly, and a surface at its depth', async () => {
    const fog = { extinctionPerM: 0.4, albedo: [0, 0, 0] as const, anisotropy: 0, topM: Infinity };
    const shot = { camera: frontCamera(3, 0.05), settings: settings(16, 16, 2), samples: 1 };
    for (const x of await shoot({ ...card(1, [0, 0, 0]), fog }, shot).then((f) => f.filter((_, i) => i % 4 === 0)))
      expect(x / Math.exp(-1.2)).toBeCloseTo(1, 2);
    const engine = await openNodeEngine(1);
    try {
      await engine.load(
        { ...card(1, [0, 0, 0]), fog: { ...fog, extinctionPerM: 2 } },
        { ...shot.settings, planes: ['depth'] },
      );
      await engine.render({ camera: shot.camera, samples: 4 });
      for (const z of engine.picture().planes.depth!) expect(z).toBeCloseTo(3, 4);
    } finally {
      await engine.close();
    }
  });
  it('ends at its height', async () => {
    const direct = await shoot(
      {
        ...scene(one(floor(2), glow([1, 1, 1]))),
        fog: { extinctionPerM: 1, albedo: [0, 0, 0], anisotropy: 0, topM: 0.5 },
      },
      { camera: downCamera(3, 0.1), settings: settings(32, 32, 2), samples: 64 },
    );
    expect(mean(direct) / Math.exp(-0.5)).toBeCloseTo(1, 1.5);
  });
  it('of albedo one over a white floor in even surroundings cannot be seen, whatever its phase', async () => {
    for (const anisotropy of [0, 0.7]) {
      const film = await shoot(
        {
          ...scene({ ...one(floor(1000)), environment: constantSky(1) }),
          ...{ fog: { extinctionPerM: 0.5, albedo: [1, 1, 1] as const, anisotropy, topM: 1 } },
        },
        {
          camera: { ...frontCamera(2, 0.4), matrix: translated(0, 2, 0) },
          settings: settings(24, 24, 64),
          samples: 128,
        },
      );
      expect(Math.abs(mean(film) - 1)).toBeLessThan(0.015);
    }
  });
  it('shows the beam of a spot: single scattering along a known line', async () => {
    // a thin fog; at distance s along the view the spot's illuminance is I/r²; radiance = ∫ σ albedo / 4π · I/r² over
    // the beam (r = 2 all along a short way)
    const sigma = 0.002;
    const light: EngineLight = {
      type: 'spot',
      position: [0, 2, 0],
      direction: [0, -1, 0],
      intensityCd: [1000, 1000, 1000],
      radiusM: 0,
      innerConeRad: 0.05,
      outerConeRad: 0.0501,
    };
    const film = await shoot(
      {
        ...scene({ lights: [light] }),
        fog: { extinctionPerM: sigma, albedo: [1, 1, 1], anisotropy: 0, topM: Infinity },
      },
      { camera: frontCamera(3, 0.002), settings: settings(16, 16, 1), samples: 4096 },
    );
    const expected = (sigma / (4 * Math.PI)) * (1000 / 4) * 2 * 2 * Math.tan(0.05);
    expect(mean(film) / expected).toBeGreaterThan(0.85);
    expect(mean(film) / expected).toBeLessThan(1.15);
  });
});

describe('alpha', () => {
  const sheet = (material: Partial<EngineMaterial>): EngineScene =>
    scene({
      meshes: [floor(1)],
      materials: [
        { ...glow([1, 1, 1]), doubleSided: true },
        { ...dark, ...material },
      ],
      instances: [
        { name: 'card', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
        { name: 'sheet', mesh: 0, material: 1, matrix: translated(0, 0.5, 0), mask: MASK.ALL },
      ],
    });
  const look = { camera: downCamera(2, 0.2), settings: settings(16, 16, 1), samples: 256 };
  it('blends as probability: the mean is the coverage', async () => {
    expect(mean(await shoot(sheet({ alphaMode: 'blend', baseColor: [0, 0, 0, 0.3] }), look))).toBeCloseTo(0.7, 1.7);
  });
  it('masks at the cutoff', async () => {
    expect(
      mean(await shoot(sheet({ alphaMode: 'mask', alphaCutoff: 0.4, baseColor: [0, 0, 0, 0.3] }), look)),
    ).toBeCloseTo(1, 3);
    expect(mean(await shoot(sheet({ alphaMode: 'mask', alphaCutoff: 0.2, baseColor: [0, 0, 0, 0.3] }), look))).toBe(0);
  });
  it('casts the shadow of its coverage', async () => {
    const lit = scene({
      meshes: [floor(1)],
      materials: [matte, { ...dark, alphaMode: 'blend', baseColor: [0, 0, 0, 0.4] }],
      instances: [
        { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
        { name: 'sheet', mesh: 0, material: 1, matrix: translated(0, 3, 0), mask: MASK.ALL },
      ],
      lights: [
        { type: 'sun', direction: [0, -1, 0], illuminanceLux: [Math.PI, Math.PI, Math.PI], angularDiameterRad: 0 },
      ],
    });
    expect(
      mean(await shoot(lit, { camera: downCamera(1, 0.2), settings: settings(16, 16, 1), samples: 256 })),
    ).toBeCloseTo(0.6, 1.7);
  });
});

describe('lamps', () => {
  it('a disc lights a point below its middle by π L r²/(r² + h²)', async () => {
    const film = await shoot(
      {
        ...scene(one(floor(1))),
        lights: [
          {
            type: 'disc',
            matrix: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 1.5, 0, 1],
            radiusM: 0.8,
            radianceNits: [3, 3, 3],
          },
        ],
      },
      { camera: downCamera(1, 0.01), settings: settings(16, 16, 1), samples: 256 },
    );
    expect(mean(film) / ((3 * 0.64) / (0.64 + 2.25))).toBeCloseTo(1, 2);
  });
  it('the sun shows in clear glass and mirrors with its own radiance', async () => {
    // an orthographic look down through a pane of thin glass, straight up into the sun by a mirror: radiance E / (π
    // tan² of half its angle)
    const angle = 0.1;
    const E = 5;
    const radiance = E / (Math.PI * Math.tan(angle / 2) ** 2);
    const mirror: EngineMaterial = { ...matte, metallic: 1, roughness: 0, baseColor: [1, 1, 1, 1] };
    const film = await shoot(
      {
        ...scene(one(floor(1), mirror)),
        lights: [{ type: 'sun', direction: [0, -1, 0], illuminanceLux: [E, E, E], angularDiameterRad: angle }],
      },
      {
        camera: { ...downCamera(2, 0.001), projection: 'orthographic', halfHeight: 0.01 },
        settings: settings(8, 8, 2),
        samples: 64,
      },
    );
    expect(mean(film) / radiance).toBeCloseTo(1, 1.7);
    const glass: EngineMaterial = { ...mirror, metallic: 0, transmission: 1, ior: 1.5, specular: 1 };
    const pane = scene({
      meshes: [floor(1)],
      materials: [mirror, glass],
      instances: [
        { name: 'mirror', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
        { name: 'pane', mesh: 0, material: 1, matrix: translated(0, 0.5, 0), mask: MASK.ALL },
      ],
      lights: [{ type: 'sun', direction: [0, -1, 0], illuminanceLux: [E, E, E], angularDiameterRad: angle }],
    });
    // 0.04 from the pane's top; through it twice 0.96², and what goes to and fro between pane and mirror: 0.04 + 0.96²
    // / (1 − 0.04)
    expect(
      mean(
        await shoot(pane, {
          camera: { ...downCamera(2, 0.001), projection: 'orthographic', halfHeight: 0.01 },
          settings: settings(8, 8, 24),
          samples: 512,
        }),
      ) /
        (radiance * (0.04 + 0.96 ** 2 / 0.96)),
    ).toBeCloseTo(1, 1);
  });
  it('rough glass gathers a lamp’s highlight by light samples and by chance alike: the mean does not depend on which', async () => {
    const at = (radiusM: number, roughness: number) =>
      shoot(
        {
          ...scene(one(sphere(32, 0.5), { ...matte, transmission: 1, ior: 1.5, specular: 1, solid: true, roughness })),
          lights: [{ type: 'point', position: [0, 3, 1], intensityCd: [50, 50, 50], radiusM }],
        },
        { camera: frontCamera(3, 0.2), settings: settings(24, 24, 8), samples: 512, threads: 2 },
      );
    // just below and just above the width from which scattered rays may meet lamps (0.1 = roughness²)
    expect(mean(await at(0.2, 0.31)) / mean(await at(0.2, 0.32))).toBeCloseTo(1, 0.8);
  });
});

describe('environment inputs', () => {
  const sky = (value: number) => constantSky(value);
  const base = (material: EngineMaterial): EngineScene => ({ ...scene(one(floor(1), material)), environment: sky(1) });
  const down = { camera: downCamera(1, 0.2), settings: settings(8, 8, 4), samples: 128 };
  const mirror: EngineMaterial = { ...matte, metallic: 1, roughness: 0.05, baseColor: [1, 1, 1, 1] };
  const pane: EngineMaterial = {
    ...matte,
    transmission: 1,
    ior: 1,
    specular: 0,
    roughness: 0,
    baseColor: [1, 1, 1, 1],
  };
  it('light, what the camera sees, what reflects and what is seen through glass are told apart', async () => {
    const inputs = { camera: sky(2), reflection: sky(3), refraction: sky(4) };
    expect(mean(await shoot({ ...base(matte), environmentInputs: inputs }, down))).toBeCloseTo(1, 1.7);
    expect(mean(await shoot({ ...base(mirror), environmentInputs: inputs }, down))).toBeCloseTo(3, 1);
    expect(mean(await shoot({ ...base(pane), environmentInputs: inputs }, down))).toBeCloseTo(4, 1.7);
    expect(mean(await shoot({ ...scene({ environment: sky(1) }), environmentInputs: inputs }, down))).toBeCloseTo(2, 3);
    expect(mean(await shoot({ ...scene({ environment: sky(1) }), environmentInputs: { camera: 'none' } }, down))).toBe(
      0,
    );
  });
});

it('an unlit surface shows its colour, and lights nothing', async () => {
  const what = scene({
    meshes: [floor(1)],
    materials: [matte, { ...matte, baseColor: [0.25, 0.25, 0.25, 1], unlit: true }],
    instances: [
      { name: 'floor', mesh: 0, material: 0, matrix: translated(-1.2, 0, 0), mask: MASK.ALL },
      { name: 'sign', mesh: 0, material: 1, matrix: translated(1.2, 0.5, 0), mask: MASK.ALL },
    ],
  });
  const film = await shoot(what, { camera: downCamera(4, 2), settings: settings(32, 32, 3), samples: 16 });
  expect(film[(16 * 32 + 25) * 4]).toBeCloseTo(0.25, 3);
  expect(film[(16 * 32 + 5) * 4]).toBe(0);
});

describe('means over many seeds agree with one long render', () => {
  const features: readonly (readonly [string, EngineScene])[] = [
    [
      'lamps and bounces',
      {
        ...scene({
          meshes: [floor(2), sphere(16, 0.4)],
          materials: [
            { ...matte, baseColor: [0.7, 0.6, 0.5, 1] },
            { ...matte, metallic: 1, roughness: 0.25, baseColor: [0.9, 0.8, 0.6, 1] },
          ],
          instances: [
            { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
            { name: 'ball', mesh: 1, material: 1, matrix: translated(0, 0.4, 0), mask: MASK.ALL },
          ],
          lights: [{ type: 'point', position: [1, 2, 1], intensityCd: [5, 5, 5], radiusM: 0.2 }],
        }),
        environment: constantSky(0.3),
      },
    ],
    [
      'frosted glass',
      {
        ...scene(
          one(sphere(24, 0.6), { ...matte, transmission: 1, ior: 1.5, specular: 1, solid: true, roughness: 0.4 }),
        ),
        environment: constantSky(0.5),
        lights: [{ type: 'sun', direction: [0.3, -1, -0.4], illuminanceLux: [3, 3, 3], angularDiameterRad: 0.05 }],
      },
    ],
    [
      'fog',
      {
        ...scene(one(floor(2))),
        fog: { extinctionPerM: 0.3, albedo: [0.9, 0.9, 0.9], anisotropy: 0.5, topM: 2 },
        environment: constantSky(0.2),
        lights: [
          {
            type: 'spot',
            position: [0, 1.5, 0],
            direction: [0, -1, 0],
            intensityCd: [6, 6, 6],
            radiusM: 0.05,
            innerConeRad: 0.3,
            outerConeRad: 0.5,
          },
        ],
      },
    ],
    [
      'coat and sheen',
      {
        ...scene(
          one(sphere(16, 0.6), {
            ...matte,
            baseColor: [0.5, 0.2, 0.2, 1],
            specular: 1,
            ior: 1.5,
            roughness: 0.5,
            coat: 1,
            coatRoughness: 0.1,
            sheen: [0.3, 0.3, 0.4],
            sheenRoughness: 0.5,
          }),
        ),
        environment: constantSky(0.5),
        lights: [{ type: 'point', position: [1, 2, 2], intensityCd: [8, 8, 8], radiusM: 0.1 }],
      },
    ],
  ];
  it.each(features)('%s', async (_name, what) => {
    const camera = { ...frontCamera(3, 0.3), matrix: translated(0, 0.6, 3) };
    const shot = (seed: number, samples: number) =>
      shoot(what, { camera, settings: { ...settings(12, 12, 5), seed }, samples, threads: 2 });
    const truth = mean(await shot(1000, 2048));
    const means: number[] = [];
    for (let seed = 1; seed <= 16; seed++) means.push(mean(await shot(seed, 16)));
    const m = means.reduce((a, b) => a + b, 0) / 16;
    const error = Math.sqrt(means.reduce((s, x) => s + (x - m) ** 2, 0) / 15 / 16);
    expect(Math.abs(m - truth)).toBeLessThan(4 * error + 1e-3 * truth);
  });
});
