// What is kept beside the picture, and that it says the truth.
import { describe, expect, it } from 'vitest';
import { PLANE } from '../kernel/layout/index.ts';
import {
  cryptomatteId,
  exrLayers,
  MASK,
  type EngineCamera,
  type EngineScene,
  type Picture,
  type PlaneName,
  type RenderSettings,
  WIDTHS_FROM_M,
} from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import {
  IDENTITY,
  constantSky,
  downCamera,
  floor,
  frontCamera,
  glow,
  matte,
  scene,
  settings,
  sphere,
  translated,
} from './fixtures.ts';

const ALL: readonly PlaneName[] = [
  'moment',
  'depth',
  'position',
  'normal',
  'geometricNormal',
  'albedo',
  'emission',
  'direct',
  'indirect',
  'objects',
  'materials',
  'guideAlbedo',
  'guideNormal',
];
/** A floor with a ball and a glowing panel above, a lamp, and a sky, each in a light group of its own. */
const room = (): EngineScene =>
  scene({
    meshes: [floor(3), sphere(24, 0.5), floor(0.4)],
    materials: [
      { ...matte, name: 'plaster', baseColor: [0.6, 0.5, 0.4, 1] },
      { ...matte, name: 'copper', metallic: 1, roughness: 0.3, baseColor: [0.9, 0.6, 0.4, 1] },
      glow([4, 4, 4]),
    ],
    instances: [
      { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
      { name: 'ball', mesh: 1, material: 1, matrix: translated(0.3, 0.5, 0), mask: MASK.ALL },
      {
        name: 'panel',
        mesh: 2,
        material: 2,
        matrix: [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0, -1, 1.5, 0, 1],
        mask: MASK.ALL,
        lightGroup: 1,
      },
    ],
    lights: [{ type: 'point', position: [1, 2, 1], intensityCd: [3, 3, 3], radiusM: 0.05, lightGroup: 0 }],
    environment: constantSky(0.2),
    environmentGroup: 2,
  });
const camera: EngineCamera = {
  ...frontCamera(4, 0.35),
  matrix: [1, 0, 0, 0, 0, 0.94, -0.342, 0, 0, 0.342, 0.94, 0, 0, 1.6, 4, 1],
};
async function take(what: EngineScene, s: RenderSettings, samples = 8, threads = 1, cam = camera): Promise<Picture> {
  const e = await openNodeEngine(threads);
  try {
    await e.load(what, s);
    await e.render({ camera: cam, samples });
    return e.picture();
  } finally {
    await e.close();
  }
}
const rgb = (p: Picture, i: number) => [0, 1, 2].map((c) => p.rgba[i * 4 + c]!);

describe('layers', () => {
  it('say depth, position, normal and albedo of what stands at a known place', async () => {
    const p = await take(
      scene({
        meshes: [floor(5)],
        materials: [{ ...matte, baseColor: [0.25, 0.5, 0.75, 1], name: 'tile' }],
        instances: [{ name: 'floor', mesh: 0, material: 0, matrix: translated(0, -1, 0), mask: MASK.ALL }],
        environment: constantSky(1),
      }),
      { ...settings(9), planes: ALL },
      4,
      1,
      downCamera(3, 1),
    );
    const mid = 4 * 9 + 4;
    expect(p.planes.depth![mid]).toBeCloseTo(4, 4);
    expect(p.planes.depth![0]).toBeCloseTo(4, 4); // along the viewing direction: the same at the corner
    expect([...p.planes.position!.subarray(mid * 3, mid * 3 + 3)].map((x) => Math.round(x * 10) + 0)).toEqual([
      0, -10, 0,
    ]);
    expect([...p.planes.normal!.subarray(mid * 3, mid * 3 + 3)].map((x) => Math.round(x * 1e4) / 1e4 + 0)).toEqual([
      0, 1, 0,
    ]);
    expect([...p.planes.albedo!.subarray(mid * 3, mid * 3 + 3)]).toEqual([0.25, 0.5, 0.75]);
  });

  it('emission, direct and indirect light add up to the picture, and so do the light groups', async () => {
    const p = await take(room(), { ...settings(48, 32, 5), planes: ALL, lightGroups: 3 });
    const n = 48 * 32;
    let lit = 0;
    for (let i = 0; i < n; i++)
      for (let c = 0; c < 3; c++) {
        const whole = p.rgba[i * 4 + c]!;
        const parts = p.planes.emission![i * 3 + c]! + p.planes.direct![i * 3 + c]! + p.planes.indirect![i * 3 + c]!;
        const groups = [0, 1, 2].reduce((sum, g) => sum + p.planes.groups![(g * n + i) * 3 + c]!, 0);
        expect(Math.abs(parts - whole)).toBeLessThan(1e-5 * Math.max(1, whole));
        expect(Math.abs(groups - whole)).toBeLessThan(1e-5 * Math.max(1, whole));
        if (whole > 0) lit++;
      }
    expect(lit).toBeGreaterThan(n);
  });

  it('a light group is the picture that its lights alone would give', async () => {
    const p = await take(room(), { ...settings(24, 16, 5), planes: ALL, lightGroups: 3 }, 256);
    const lampAlone = await take(
      { ...room(), environment: undefined, instances: room().instances.slice(0, 2) },
      settings(24, 16, 5),
      256,
    );
    const n = 24 * 16;
    let a = 0;
    let b = 0;
    for (let i = 0; i < n; i++) {
      a += p.planes.groups![i * 3]!;
      b += lampAlone.rgba[i * 4]!;
    }
    expect(a / b).toBeCloseTo(1, 1);
  });

  it('Cryptomatte names objects and materials by their hash, with coverage that sums to what is covered', async () => {
    expect(cryptomatteId('hello')).toBe(0x248bfa47); // MurmurHash3 of the specification's kind
    const p = await take(room(), { ...settings(64, 40), planes: ALL }, 16);
    const n = 64 * 40;
    const u = new Uint32Array(p.planes.objects!.buffer);
    const ids = new Map<number, number>();
    for (let i = 0; i < n; i++) {
      let sum = 0;
      for (let r = 0; r < PLANE.CRYPTO_RANKS; r++) {
        const w = p.planes.objects![i * 12 + r * 2 + 1]!;
        sum += w;
        if (w > 0) ids.set(u[i * 12 + r * 2]!, (ids.get(u[i * 12 + r * 2]!) ?? 0) + w);
      }
      expect(sum).toBeCloseTo(p.rgba[i * 4 + 3]!, 5);
    }
    expect([...ids.keys()].sort()).toEqual(['floor', 'ball', 'panel'].map(cryptomatteId).sort());
    expect(ids.get(cryptomatteId('ball'))!).toBeGreaterThan(50);
    const { channels, metadata } = exrLayers(p, {
      aovs: ['objects', 'depth'],
      depthRangeM: [1, 5],
      objects: ['floor', 'ball', 'panel'],
      materials: [],
    });
    expect(channels.map((c) => c.name)).toEqual(
      expect.arrayContaining(['CryptoObject00.R', 'CryptoObject02.A', 'depth.Z', 'depth.range']),
    );
    const manifest = JSON.parse(Object.entries(metadata).find(([k]) => k.endsWith('/manifest'))![1]) as Record<
      string,
      string
    >;
    expect(manifest['ball']).toBe(cryptomatteId('ball').toString(16).padStart(8, '0'));
  });

  it('guides look through clear glass and into mirrors', async () => {
    const pane = { ...matte, baseColor: [1, 1, 1, 1] as const, transmission: 1, ior: 1.5, specular: 1, roughness: 0 };
    const p = await take(
      scene({
        meshes: [floor(3)],
        materials: [{ ...matte, baseColor: [0.2, 0.4, 0.6, 1] }, pane],
        instances: [
          { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
          { name: 'pane', mesh: 0, material: 1, matrix: translated(0, 0.5, 0), mask: MASK.ALL },
        ],
        environment: constantSky(1),
      }),
      { ...settings(8), denoise: true, planes: ['albedo'] },
      32,
      1,
      downCamera(2, 0.2),
    );
    expect(p.planes.guideAlbedo![2]! / p.planes.guideAlbedo![0]!).toBeGreaterThan(2.2); // the floor's colour
    expect(p.planes.albedo![0]).toBeGreaterThan(0.9); // the pane's own
    expect(Math.max(...p.planes.albedo!)).toBeLessThanOrEqual(1);
  });
});

describe('slices and regions', () => {
  it('a region holds the pixels of the whole, to the bit', async () => {
    const whole = await take(room(), { ...settings(96, 64), planes: ALL });
    const left = 17;
    const top = 9;
    const w = 40;
    const h = 33;
    const part = await take(room(), {
      ...settings(96, 64),
      planes: ALL,
      region: { left, top, widthPx: w, heightPx: h },
    });
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) expect(rgb(part, y * w + x)).toEqual(rgb(whole, (y + top) * 96 + x + left));
    expect(part.planes.depth![5]).toBe(whole.planes.depth![top * 96 + left + 5]);
  });
  it('samples rendered in two goes are the samples rendered in one, to the bit, layers too', async () => {
    const s = { ...settings(40, 30), planes: ALL, lightGroups: 3 };
    const e = await openNodeEngine(2);
    try {
      await e.load(room(), s);
      await e.render({ camera, samples: 5 });
      await e.render({ camera, samples: 7 }, 5);
      const whole = await take(room(), s, 12);
      expect(e.picture().rgba).toEqual(whole.rgba);
      expect(e.picture().planes).toEqual(whole.planes);
    } finally {
      await e.close();
    }
  });
  it('a film that was put aside for another job goes on as if nothing had come between, to the bit', async () => {
    const s = { ...settings(40, 30), planes: ALL, lightGroups: 3 };
    const e = await openNodeEngine(2);
    try {
      await e.load(room(), s);
      await e.render({ camera, samples: 5 });
      const aside = e.filmState();
      await e.load(scene({ meshes: [floor(3)] }), settings(8));
      await expect(async () => e.putFilmState(aside)).rejects.toThrow('of another job');
      await e.render({ camera, samples: 2 });
      await e.load(room(), s);
      e.putFilmState(aside);
      await e.render({ camera, samples: 7 }, 5);
      const whole = await take(room(), s, 12);
      expect(e.picture().rgba).toEqual(whole.rgba);
      expect(e.picture().planes).toEqual(whole.planes);
    } finally {
      await e.close();
    }
  });
  it('a film that is taken is the copied one to the bit, and takes no more samples until it is cleared', async () => {
    const s = { ...settings(40, 30), planes: ALL, lightGroups: 3 };
    const e = await openNodeEngine(2);
    try {
      await e.load(room(), s);
      await e.render({ camera, samples: 6 });
      const copied = e.picture();
      expect(e.film()).toEqual(copied.rgba);
      const taken = e.takePicture();
      expect(taken.rgba).toEqual(copied.rgba);
      expect(taken.planes).toEqual(copied.planes);
      expect(taken.samples).toEqual(copied.samples);
      await expect(e.render({ camera, samples: 1 }, 6)).rejects.toThrow('The film was taken');
      e.clearFilm();
      await e.render({ camera, samples: 6 });
      expect(e.picture().planes).toEqual(copied.planes);
    } finally {
      await e.close();
    }
  });
  it.each([[{ left: 80, top: 0, widthPx: 40, heightPx: 10 }], [{ left: 0, top: 0, widthPx: 0, heightPx: 10 }]])(
    'a region outside the frame is refused',
    async (region) => {
      await expect(take(room(), { ...settings(96, 64), region })).rejects.toThrow(/region|pixel/);
    },
  );
});

describe('adaptive sampling', () => {
  it('gives quiet tiles fewer samples, noisy ones all, and counts what it gave', async () => {
    const what = scene({
      ...room(),
      environment: undefined,
      instances: room().instances.map((i) =>
        i.name === 'floor' ? { ...i, matrix: [0.2, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0.2, 0, -1.2, 0, 0, 1] } : i,
      ),
    });
    const s = { ...settings(256, 128, 5), noise: { threshold: 0.05, floorNits: 0.05 } };
    const e = await openNodeEngine(2);
    try {
      await e.load(what, s);
      const stats = await e.render({ camera, samples: 128 });
      const counts = new Set(e.picture().samples);
      expect(stats.meanSamples).toBeLessThan(100);
      expect(Math.min(...counts)).toBeGreaterThanOrEqual(16);
      expect(counts.size).toBeGreaterThan(1);
      expect(e.picture().samples.reduce((a, b) => a + b, 0)).toBe(stats.paths);
    } finally {
      await e.close();
    }
  });
});

describe('evidence', () => {
  it('tells what is seen, reflected, seen through glass, bounced off, shadows and gives light; on any number of threads', async () => {
    const mirror = { ...matte, metallic: 1, roughness: 0, baseColor: [0.9, 0.9, 0.9, 1] as const };
    const pane = { ...matte, transmission: 1, ior: 1.5, specular: 1, roughness: 0, baseColor: [1, 1, 1, 1] as const };
    // the mirror on the floor shows the lid behind the camera; a pane stands before the far block; the panel lights
    const what = scene({
      meshes: [floor(1)],
      materials: [matte, mirror, pane, glow([5, 5, 5])],
      instances: [
        { name: 'mirror', mesh: 0, material: 1, matrix: translated(-1, 0, 0), mask: MASK.ALL },
        { name: 'table', mesh: 0, material: 0, matrix: translated(1, -0.5, 0), mask: MASK.ALL },
        { name: 'pane', mesh: 0, material: 2, matrix: translated(1, 0, 0), mask: MASK.ALL },
        { name: 'lid above', mesh: 0, material: 0, matrix: translated(-1, 4, 0), mask: MASK.ALL },
        {
          name: 'panel',
          mesh: 0,
          material: 3,
          matrix: [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0, 3, 3, 0, 1],
          mask: MASK.ALL,
        },
        { name: 'far away', mesh: 0, material: 0, matrix: translated(900, 0, 0), mask: MASK.ALL },
      ],
    });
    const measure = async (threads: number) => {
      const e = await openNodeEngine(threads);
      try {
        await e.load(what, { ...settings(64), evidence: { finer: 1 } });
        await e.render({ camera: downCamera(3, 1.5), samples: 8 });
        return e.evidence();
      } finally {
        await e.close();
      }
    };
    const one = await measure(1);
    const [reflector, table, glass, lid, panel, away] = one;
    expect(one).toEqual(await measure(2));
    expect(reflector!.seen).toBeGreaterThan(1000);
    expect(lid!.reflected).toBeGreaterThan(500);
    expect([lid!.mirror, table!.glass]).toEqual([0, 2]); // by way of the reflector, and of the pane
    expect(reflector!.glass).toBeNull();
    expect(lid!.seen).toBe(0);
    expect(table!.refracted).toBeGreaterThan(500);
    expect(table!.seen).toBe(0);
    expect(glass!.shadowed).toBeGreaterThan(0);
    expect(panel!.lit).toBeGreaterThan(0);
    const { times, widths, mirror: inMirror, glass: inGlass, ...weights } = away!;
    expect([inMirror, inGlass]).toEqual([null, null]);
    for (const nothing of [weights, times, widths]) expect(Object.values(nothing).every((x) => x === 0)).toBe(true);
    expect(Math.abs(reflector!.times.seen - reflector!.seen)).toBeLessThan(1); // each whole ray that sees it weighs one
  });
});

describe('the denoiser', () => {
  it('comes much nearer to the truth than what it was given, keeps the texture, and gives the same bits on any number of threads', async () => {
    const checks = new Uint8Array(64 * 64 * 4).map((_, i) => {
      const isLight = ((((i >> 2) % 64) >> 3) + ((i >> 2) >> 9)) % 2 !== 0;
      if (i % 4 === 3) return 255;
      return isLight ? 200 : 60;
    });
    const what = {
      ...room(),
      meshes: [{ ...floor(3), uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]) }, ...room().meshes.slice(1)],
      textures: [{ name: 'tiles', width: 64, height: 64, data: checks }],
      materials: [
        {
          ...room().materials[0]!,
          textures: {
            base: {
              texture: 0,
              srgb: true,
              uvSet: 0 as const,
              wrapS: 'repeat' as const,
              wrapT: 'repeat' as const,
              matrix: [1, 0, 0, 0, 1, 0] as const,
            },
          },
        },
        ...room().materials.slice(1),
      ],
    };
    const s = { ...settings(128, 72, 5), denoise: true };
    const run = async (threads: number) => {
      const e = await openNodeEngine(threads);
      try {
        await e.load(what, s);
        await e.render({ camera, samples: 16 });
        return { raw: e.picture().rgba, clean: (await e.denoise()).rgb };
      } finally {
        await e.close();
      }
    };
    const { raw, clean } = await run(1);
    const truth = (await take(what, { ...s, denoise: false, seed: 9 }, 400, 2)).rgba;
    const error = (p: Float32Array, stride: number) => {
      let sum = 0;
      for (let i = 0; i < 128 * 72; i++)
        for (let c = 0; c < 3; c++) {
          const d = p[i * stride + c]! - truth[i * 4 + c]!;
          sum += (d * d) / (truth[i * 4 + c]! ** 2 + 0.01);
        }
      return sum;
    };
    expect(error(clean, 3)).toBeLessThan(0.35 * error(raw, 4));
    expect((await run(2)).clean).toEqual(clean);
  });

  it('cleans each light group, and they still add up to the picture', async () => {
    const what = { ...room(), environmentGroup: 1 };
    const e = await openNodeEngine(2);
    try {
      await e.load(what, { ...settings(64, 36, 5), denoise: true, lightGroups: 2 });
      await e.render({ camera, samples: 16 });
      const { rgb, groups } = await e.denoise();
      const raw = e.picture().planes.groups!;
      const n = rgb.length;
      const spread = (p: Float32Array, g: number) => {
        let sum = 0;
        for (let y = 20; y < 34; y++)
          for (let x = 1; x < 63; x++) {
            const i = g * n + (y * 64 + x) * 3;
            sum += Math.abs(p[i]! - p[i + 3]!);
          }
        return sum;
      };
      for (let i = 0; i < n; i++) expect(groups![i]! + groups![n + i]!).toBeCloseTo(rgb[i]!, 4);
      for (const g of [0, 1]) {
        expect(spread(raw, g)).toBeGreaterThan(0);
        expect(spread(groups!, g)).toBeLessThan(0.6 * spread(raw, g));
      }
    } finally {
      await e.close();
    }
  });
});

describe('evidence of detail', () => {
  it('tells how wide rays were: by the lamp and how far off what stops them is, or by where they bounced', async () => {
    // beside the lamp hangs a ball above the camera, so that only its shadow and bounced light meet it
    const what = (radiusM: number) =>
      scene({
        meshes: [floor(1), sphere(24, 0.5)],
        materials: [matte],
        instances: [
          { name: 'table', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
          { name: 'ball', mesh: 1, material: 0, matrix: translated(0, 5, 0), mask: MASK.ALL },
        ],
        lights: [{ type: 'point', position: [0, 10, 0], intensityCd: [9, 9, 9], radiusM }],
      });
    const pixelM = 2 / 64; // a little wider, and told as the power of two below
    const e = await openNodeEngine(1);
    /** Of the ball: widths in metres, with how often each was. */
    const widths = async (radiusM: number, maxBounces: number, finer = 1) => {
      await e.load(what(radiusM), { ...settings(64, 64, maxBounces), evidence: { finer } });
      await e.render({ camera: downCamera(3, 1.1), samples: 4 });
      return e.evidence()[1]!.widths.flatMap((n, k) => (n ? [{ widthM: WIDTHS_FROM_M * 2 ** k, times: n }] : []));
    };
    const most = (of: Awaited<ReturnType<typeof widths>>) => of.reduce((a, b) => (b.times > a.times ? b : a)).widthM;
    try {
      // a point of a lamp: as wide as the pixel, or as it will be, and narrowing down: to 0.45 of it where the ball
      // ends, five and a half of ten metres up, of which again at least half is told
      const [narrowest, ...bounced] = await widths(0, 1);
      expect(narrowest!.widthM).toBe(pixelM / 4);
      expect(most(await widths(0, 1, 0.25))).toBe(pixelM / 16);
      // half a metre of radius from ten metres off is a tenth, and the ball begins four and a half metres up: 0.45, of
      // which at least half is told
      expect(most(await widths(0.5, 1))).toBe(0.25);
      // light that bounced from the floor is as wide as a fifth of its way
      expect(bounced.every((w) => w.widthM >= 0.5 && w.widthM <= 1)).toBe(true);
      expect(bounced.length).toBeGreaterThan(0);
    } finally {
      await e.close();
    }
  });
});
