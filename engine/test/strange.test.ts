// Strange scenes: nothing crashes, no pixel is not a number, and what cannot be rendered is named.
import { describe, expect, it } from 'vitest';
import { MASK, type EngineScene } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { AREA_ACCELERATION } from '../host/countSelection.ts';
import { BACKDROP, GROUND, madeMesh } from '../host/madeMeshes.ts';
import { AREA_MESHES } from '../host/index.ts';
import {
  IDENTITY,
  constantSky,
  floor,
  frontCamera,
  glow,
  matte,
  one,
  scene,
  settings,
  shoot,
  sphere,
  translated,
} from './fixtures.ts';

const scaled = (s: number) => [s, 0, 0, 0, 0, s, 0, 0, 0, 0, s, 0, 0, 0, 0, 1];
const glass = { ...matte, transmission: 1, ior: 1.5, specular: 1, solid: true, roughness: 0.3 };
const lamp = { type: 'point', position: [0, 2, 1], intensityCd: [5, 5, 5], radiusM: 0.1 } as const;

const cases: readonly (readonly [string, EngineScene])[] = [
  ['nothing at all', scene({})],
  ['lights and nothing to light', scene({ lights: [lamp], environment: constantSky(1) })],
  ['no light', scene(one(sphere()))],
  ['a lamp of no strength', { ...scene(one(sphere())), lights: [{ ...lamp, intensityCd: [0, 0, 0] }] }],
  ['a lamp inside an object', { ...scene(one(sphere())), lights: [{ ...lamp, position: [0, 0, 0] }] }],
  ['a lamp on a surface', { ...scene(one(floor(2))), lights: [{ ...lamp, position: [0, 0, 0], radiusM: 0 }] }],
  [
    'triangles without area',
    scene({
      ...one({
        name: 'line',
        positions: new Float32Array([0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]),
        indices: new Uint32Array([0, 1, 2, 3, 4, 5]),
      }),
      environment: constantSky(1),
    }),
  ],
  [
    'emitting triangles without area',
    scene({
      ...one(
        { name: 'line', positions: new Float32Array([0, 0, 0, 1, 0, 0, 2, 0, 0]), indices: new Uint32Array([0, 1, 2]) },
        glow([1, 1, 1]),
      ),
      environment: constantSky(1),
    }),
  ],
  [
    'normals of no length',
    scene({ ...one({ ...floor(2), normals: new Float32Array(12) }), environment: constantSky(1) }),
  ],
  [
    'texture coordinates that all meet',
    scene({
      ...one(
        { ...floor(2), uv0: new Float32Array(8) },
        {
          ...matte,
          anisotropy: 0.5,
          metallic: 1,
          textures: {
            normal: { texture: 0, srgb: false, uvSet: 0, wrapS: 'mirror', wrapT: 'clamp', matrix: [0, 0, 0, 0, 0, 0] },
          },
        },
      ),
      textures: [{ name: 'dot', width: 1, height: 1, data: new Uint8Array([128, 128, 255, 255]) }],
      environment: constantSky(1),
    }),
  ],
  [
    'texture coordinates far away',
    scene({
      ...one(
        { ...floor(2), uv0: new Float32Array([-1e30, 1e30, 3e38, 0, 0, -3e38, 1e9, 1e9]) },
        {
          ...matte,
          textures: {
            base: {
              texture: 0,
              srgb: true,
              uvSet: 0,
              wrapS: 'repeat',
              wrapT: 'mirror',
              matrix: [1e10, 0, 0, 0, 1e10, 0],
            },
          },
        },
      ),
      textures: [{ name: 'dot', width: 2, height: 1, data: new Uint8Array(8).fill(99) }],
      environment: constantSky(1),
    }),
  ],
  [
    'second texture coordinates that are not there',
    scene({
      ...one(floor(2), {
        ...matte,
        textures: {
          base: { texture: 0, srgb: true, uvSet: 1, wrapS: 'repeat', wrapT: 'repeat', matrix: [1, 0, 0, 0, 1, 0] },
        },
      }),
      textures: [{ name: 'dot', width: 1, height: 1, data: new Uint8Array(4).fill(99) }],
      environment: constantSky(1),
    }),
  ],
  [
    'glass within glass within glass',
    scene({
      meshes: [sphere(16)],
      materials: [glass],
      instances: [1, 0.7, 0.4].map((s) => ({
        name: `shell ${s}`,
        mesh: 0,
        material: 0,
        matrix: scaled(s),
        mask: MASK.ALL,
      })),
      environment: constantSky(1),
      lights: [lamp],
    }),
  ],
  [
    'values at their ends',
    scene({
      ...one(sphere(16), {
        ...matte,
        baseColor: [1, 1, 1, 1],
        metallic: 1,
        roughness: 0,
        coat: 1,
        coatRoughness: 0,
        sheen: [1, 1, 1],
        sheenRoughness: 0,
        iridescence: 1,
        iridescenceNm: [0, 0],
        anisotropy: 1,
        specular: 1,
        ior: 1,
      }),
      environment: constantSky(1),
      lights: [lamp],
    }),
  ],
  [
    'an index of refraction without end',
    scene({ ...one(sphere(16), { ...glass, ior: 1e4 }), environment: constantSky(1) }),
  ],
  [
    'fog without end',
    scene({
      ...one(sphere()),
      environment: constantSky(1),
      lights: [lamp],
      ...{ fog: { extinctionPerM: 1e6, albedo: [1, 1, 1] as const, anisotropy: 0.999, topM: Infinity } },
    }),
  ],
  [
    'a light as bright as numbers go',
    { ...scene(one(sphere())), lights: [{ ...lamp, intensityCd: [1e30, 1e30, 1e30] }] },
  ],
];

describe.each([false, true])('a scene (assertions %s) of', (debug) => {
  it.each(cases)('%s renders finite numbers', async (_name, what) => {
    const film = await shoot(what, { camera: frontCamera(3, 0.4), settings: settings(24, 16, 6), samples: 4, debug });
    expect(film.every(Number.isFinite)).toBe(true);
    expect(film.every((x) => x >= 0)).toBe(true);
  });
});

describe('scale', () => {
  it.each([1e-6, 1e-3, 1, 1e3, 1e6])('a ball in its sky looks the same %f times as large', async (s) => {
    const film = await shoot(
      scene({ ...one(sphere(), { ...matte, baseColor: [0.5, 0.5, 0.5, 1] }, scaled(s)), environment: constantSky(1) }),
      {
        camera: { ...frontCamera(3 * s, 0.4), nearM: 0.01 * s, farM: 100 * s },
        settings: settings(16, 16, 3),
        samples: 16,
      },
    );
    expect(film[(8 * 16 + 8) * 4]).toBeCloseTo(0.5, 1);
    expect(film[0]).toBeCloseTo(1, 3);
  });
  it.each([
    ['scaled to nothing', 0],
    ['scaled beyond numbers', 1e30],
    ['scaled below numbers', 1e-30],
    ['scaled by what is no number', NaN],
  ])('an object %s is refused by name', async (_what, s) => {
    await expect(
      shoot(scene(one(sphere(8), matte, scaled(s))), {
        camera: frontCamera(3, 0.4),
        settings: settings(8),
        samples: 1,
      }),
    ).rejects.toThrow(/“sphere” (is scaled|has a position)/);
  });
});

describe('what refers to nothing is refused by name', () => {
  const load = async (what: EngineScene) => {
    const e = await openNodeEngine(1);
    try {
      await e.load(what, settings(8));
    } finally {
      await e.close();
    }
  };
  it.each([
    [
      'texture',
      scene(
        one(floor(), {
          ...matte,
          name: 'Tile',
          textures: {
            base: { texture: 3, srgb: true, uvSet: 0, wrapS: 'repeat', wrapT: 'repeat', matrix: [1, 0, 0, 0, 1, 0] },
          },
        }),
      ),
      /“Tile” uses texture 3/,
    ],
    [
      'mesh',
      scene({
        ...one(floor()),
        instances: [{ name: 'ghost', mesh: 7, material: 0, matrix: IDENTITY, mask: MASK.ALL }],
      }),
      /“ghost” refers to a mesh/,
    ],
    [
      'material',
      scene({
        ...one(floor()),
        instances: [{ name: 'ghost', mesh: 0, material: 7, matrix: IDENTITY, mask: MASK.ALL }],
      }),
      /“ghost” refers to a mesh or material/,
    ],
    [
      'texel',
      scene({ ...one(floor()), textures: [{ name: 'short', width: 4, height: 4, data: new Uint8Array(9) }] }),
      /“short” holds 9/,
    ],
    [
      'number',
      scene(one(floor(), { ...matte, name: 'Broken', roughness: NaN })),
      /“Broken” has a value that is not a number/,
    ],
  ])('%s', async (_what, s, message) => {
    await expect(load(s)).rejects.toThrow(message);
  });
});

it('the shapes of area lights and what looks put up take what plans count for them', async () => {
  const e = await openNodeEngine(1);
  try {
    for (const made of [BACKDROP, GROUND].map((mesh) => madeMesh(mesh)!)) {
      const { accelerationBytes, ...mesh } = made.mesh;
      expect(await e.measureMesh(mesh), mesh.name).toBe(accelerationBytes);
    }
    for (const k of ['rectangle', 'disc', 'ball'] as const)
      expect(await e.measureMesh(AREA_MESHES[k])).toBe(AREA_ACCELERATION[k]);
  } finally {
    await e.close();
  }
});

it('textures keep their mean over mip levels and take less with a cap', async () => {
  const data = new Uint8Array(64 * 64 * 4).map((_, i) => (i % 4 === 3 || (i >> 2) % 2 ? 255 : 0));
  const what = (wide: boolean) =>
    scene({
      ...one(
        { ...floor(50), uv0: new Float32Array([0, 0, 0, 50, 50, 50, 50, 0]) },
        {
          ...matte,
          textures: {
            base: { texture: 0, srgb: false, uvSet: 0, wrapS: 'repeat', wrapT: 'repeat', matrix: [1, 0, 0, 0, 1, 0] },
          },
        },
      ),
      textures: [
        { name: 'stripes', width: 64, height: 64, data: wide ? Uint16Array.from(data, (x) => x * 257) : data },
      ],
      environment: constantSky(1),
    });
  const look = {
    camera: { ...frontCamera(1, 0.3), matrix: translated(0, 3, 10) },
    settings: settings(32, 32, 1),
    samples: 64,
  };
  const plain = await shoot(what(false), look);
  const wide = await shoot(what(true), look);
  const capped = await shoot(what(false), { ...look, settings: { ...look.settings, textureCapPx: 8 } });
  const ground = (film: Float32Array) => {
    let s = 0;
    let n = 0;
    for (let i = 20 * 32; i < 32 * 32; i++) {
      s += film[i * 4]!;
      n++;
    }
    return s / n;
  };
  expect(ground(plain)).toBeCloseTo(0.5, 1);
  expect(ground(wide)).toBeCloseTo(ground(plain), 2);
  expect(ground(capped)).toBeCloseTo(0.5, 1);
  const e = await openNodeEngine(1);
  try {
    const a = (await e.load(what(false), settings(8))).bytes.textures;
    const b = (await e.load(what(false), { ...settings(8), textureCapPx: 8 })).bytes.textures;
    const c = (await e.load(what(true), settings(8))).bytes.textures;
    expect(a).toBeGreaterThanOrEqual(64 * 64 * 4 * 1.33);
    expect(a).toBeLessThan(64 * 64 * 4 * 1.35);
    expect(b).toBeLessThan(a / 35);
    expect(c / a).toBeCloseTo(2, 1);
  } finally {
    await e.close();
  }
});
