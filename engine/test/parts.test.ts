// Light kept apart, and pictures mixed of it: each is that of its own trace.
import { describe, expect, it } from 'vitest';
import { MASK, type EngineScene, type LightParts, type Picture, type RenderSettings } from '../host/index.ts';
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
  scene,
  settings,
  shoot,
  sphere,
  translated,
} from './fixtures.ts';

const SIZE = 48;
const camera = {
  ...frontCamera(4, 0.35),
  matrix: [1, 0, 0, 0, 0, 0.94, -0.342, 0, 0, 0.342, 0.94, 0, 0, 1.6, 4, 1],
};
type Rgb = readonly [number, number, number];
const times = (c: Rgb, by: Rgb): Rgb => [c[0] * by[0], c[1] * by[1], c[2] * by[2]];
const WHITE: Rgb = [1, 1, 1];

/** A lamp, a glowing card, a sky, each a part; and a sign that is lit by nothing, in the last. */
function room(lamp: Rgb = WHITE, card: Rgb = WHITE, sky: Rgb = WHITE): EngineScene {
  return scene({
    meshes: [floor(3), sphere(24, 0.5), floor(0.4), floor(0.3)],
    materials: [
      { ...matte, name: 'plaster', baseColor: [0.6, 0.5, 0.4, 1] },
      { ...matte, name: 'copper', metallic: 1, roughness: 0.3, baseColor: [0.9, 0.6, 0.4, 1] },
      glow(times([4, 4, 4], card)),
      { ...matte, name: 'sign', unlit: true, baseColor: [0.2, 0.7, 0.3, 1] },
    ],
    instances: [
      { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
      { name: 'ball', mesh: 1, material: 1, matrix: translated(0.3, 0.5, 0), mask: MASK.ALL },
      {
        name: 'card',
        mesh: 2,
        material: 2,
        matrix: [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0, -1, 1.5, 0, 1],
        mask: MASK.ALL,
        lightGroup: 1,
      },
      {
        name: 'sign',
        mesh: 3,
        material: 3,
        matrix: [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0, -0.6, 0.5, 0, 1],
        mask: MASK.ALL,
      },
    ],
    lights: [{ type: 'point', position: [1, 2, 1], intensityCd: times([3, 3, 3], lamp), radiusM: 0.05, lightGroup: 0 }],
    environment: { ...constantSky(0.2), scale: sky },
    environmentGroup: 2,
  });
}
const mixOf = (...shares: readonly Rgb[]): number[] => [...shares, WHITE].flat();
const parts = (...mixes: readonly number[][]): LightParts => ({ of: [0, 1, 1, null], mixes });

const base: RenderSettings = {
  ...settings(SIZE),
  planes: ['emission', 'direct', 'indirect', 'moment'],
  lightGroups: 2,
};
async function traced(what: EngineScene, s: RenderSettings, samples: number, threads = 1): Promise<Picture> {
  const e = await openNodeEngine(threads);
  try {
    await e.load(what, s);
    await e.render({ camera, samples, samplesPerPass: 7 });
    return e.picture();
  } finally {
    await e.close();
  }
}
async function mixed(s: RenderSettings, samples: number, threads = 1, what = room()): Promise<Picture[]> {
  const e = await openNodeEngine(threads);
  try {
    await e.load(what, s);
    await e.render({ camera, samples, samplesPerPass: 5 });
    return s.parts!.mixes.map((_, k) => {
      e.mix(k);
      return e.picture();
    });
  } finally {
    await e.close();
  }
}
/** The largest difference between two lists, to the largest of the values. */
function apart(a: ArrayLike<number>, b: ArrayLike<number>): number {
  let most = 0;
  let top = 0;
  for (let i = 0; i < a.length; i++) {
    most = Math.max(most, Math.abs(a[i]! - b[i]!));
    top = Math.max(top, Math.abs(b[i]!));
  }
  return most / top;
}

describe('a mix', () => {
  it('of all light as it was traced is the picture without parts, its planes and groups too, to float rounding', async () => {
    const plain = await traced({ ...room(), environmentGroup: 1 }, base, 16);
    const [mix] = await mixed({ ...base, parts: parts(mixOf(WHITE, WHITE, WHITE)) }, 16);
    expect(apart(mix!.rgba, plain.rgba)).toBeLessThan(1e-5);
    for (const plane of ['emission', 'direct', 'indirect', 'groups'] as const)
      expect(apart(mix!.planes[plane]!, plain.planes[plane]!), plane).toBeLessThan(1e-5);
  });

  it('with a lamp switched off, another coloured and the sky dimmed is as its own trace, within the noise', async () => {
    const wanted: readonly (readonly Rgb[])[] = [
      [[0, 0, 0], [1, 0.2, 0.1], WHITE],
      [
        [0.5, 0.5, 1],
        [0, 0, 0],
        [0.3, 0.3, 0.3],
      ],
    ];
    const mixes = wanted.map((w) => mixOf(...w));
    const made = await mixed({ ...base, parts: parts(...mixes) }, 512);
    for (const [k, [lamp, card, sky]] of wanted.entries()) {
      const own = await traced(room(lamp, card, sky), base, 512);
      for (const c of [0, 1, 2])
        expect(mean(made[k]!.rgba, c) / mean(own.rgba, c), `mix ${k}, channel ${c}`).toBeCloseTo(1, 1.5);
      expect(mean(made[k]!.rgba, 3)).toBe(mean(own.rgba, 3));
      for (const plane of ['emission', 'direct', 'indirect'] as const) {
        const sum = (p: Picture) => p.planes[plane]!.reduce((a, x) => a + x, 0);
        expect(sum(made[k]!) / sum(own), plane).toBeCloseTo(1, 1.5);
      }
    }
  });

  it('keeps what is lit by nothing, whatever is off', async () => {
    const dark: Rgb = [0, 0, 0];
    const [mix] = await mixed({ ...base, parts: parts(mixOf(dark, dark, dark)) }, 4);
    const own = await traced(room(dark, dark, dark), base, 4);
    expect(Math.max(...mix!.rgba)).toBe(1);
    // where it is seen itself; mirrored it is found in other directions, since these depend on what is lit
    const isSign = (i: number) => own.rgba[i]! > 0.15 && i % 4 < 3;
    for (let i = 0; i < own.rgba.length; i++) if (isSign(i)) expect(mix!.rgba[i]).toBe(own.rgba[i]);
    expect(apart(mix!.rgba, own.rgba)).toBeLessThan(0.05);
  });

  it('is the same to the bit on any number of threads, in slices, and after another was mixed', async () => {
    const s = {
      ...base,
      denoise: true,
      parts: parts(mixOf(WHITE, [0, 0, 0], WHITE), mixOf([0.1, 1, 1], WHITE, WHITE)),
    };
    const once = await mixed(s, 10);
    const again = await mixed({ ...s, parts: { ...s.parts, mixes: [...s.parts.mixes].reverse() } }, 10, 3);
    expect(again.map((p) => [...p.rgba]).reverse()).toEqual(once.map((p) => [...p.rgba]));
    const e = await openNodeEngine(2);
    try {
      await e.load(room(), s);
      const bands: Uint8Array[] = [];
      for (let row = 0; row < e.tileRows(); row++) {
        e.clearFilm();
        await e.render({ camera, samples: 10, rows: { from: row, to: row + 1 } });
        bands.push(e.band({ from: row, to: row + 1 }));
      }
      e.clearFilm();
      bands.forEach((band, row) => e.putBand({ from: row, to: row + 1 }, band));
      e.mix(1);
      expect([...e.picture().rgba]).toEqual([...once[1]!.rgba]);
      expect([...e.picture().planes.moment!]).toEqual([...once[1]!.planes.moment!]);
    } finally {
      await e.close();
    }
  });

  it('is clamped where its own trace is, where it is brightest', async () => {
    const s = { ...base, clampIndirect: 0.05 };
    const [mix] = await mixed({ ...s, parts: parts(mixOf([2, 2, 2], [2, 2, 2], [2, 2, 2])) }, 64);
    const own = await traced(room([2, 2, 2], [2, 2, 2], [2, 2, 2]), s, 64);
    expect(apart(mix!.rgba, own.rgba)).toBeLessThan(1e-5);
    const free = await traced(room([2, 2, 2], [2, 2, 2], [2, 2, 2]), base, 64);
    expect(mean(mix!.rgba)).toBeLessThan(mean(free.rgba) * 0.995);
  });

  it('says how noisy it is: by halves as by squares', async () => {
    const s = { ...base, planes: ['moment'] as const, parts: parts(mixOf(WHITE, WHITE, WHITE)) };
    const [mix] = await mixed(s, 64);
    const plain = await traced({ ...room(), environmentGroup: 1 }, { ...base, planes: ['moment'] }, 64);
    const variance = (p: Picture) =>
      p.planes.moment!.reduce((sum, m, i) => sum + m - p.rgba[Math.floor(i / 3) * 4 + (i % 3)]! ** 2, 0);
    expect(variance(mix!) / variance(plain)).toBeGreaterThan(0.8);
    expect(variance(mix!) / variance(plain)).toBeLessThan(1.25);
  });

  it('is judged while it renders as a film without parts is, and of several the noisiest', async () => {
    const noiseOf = async (what: EngineScene, s: RenderSettings): Promise<number | null> => {
      const e = await openNodeEngine(2);
      try {
        await e.load(what, s);
        expect(e.noise()).toBeNull();
        await e.render({ camera, samples: 64 });
        return e.noise();
      } finally {
        await e.close();
      }
    };
    const s = { ...base, planes: ['moment'] as const };
    const as = (...mixes: number[][]) => noiseOf(room(), { ...s, parts: parts(...mixes) });
    const plain = (await noiseOf({ ...room(), environmentGroup: 1 }, s))!;
    const whole = (await as(mixOf(WHITE, WHITE, WHITE)))!;
    expect(whole / plain).toBeGreaterThan(0.75);
    expect(whole / plain).toBeLessThan(1.35);
    const dim: Rgb = [0.001, 0.001, 0.001];
    const card = (await as(mixOf(dim, WHITE, dim)))!;
    const sky = (await as(mixOf(dim, dim, WHITE)))!;
    expect(card).not.toBeCloseTo(sky, 2);
    const both = (await as(mixOf(dim, WHITE, dim), mixOf(dim, dim, WHITE)))!;
    expect(both / Math.max(card, sky)).toBeCloseTo(1, 1);
  });

  it('gets its samples until every mix is quiet: a lamp that is bright in one alone counts there', async () => {
    const noise = { threshold: 0.05, floorNits: 0.01 };
    const samples = async (...mixes: number[][]) => {
      const [mix] = await mixed({ ...base, noise, parts: parts(...mixes) }, 512);
      return mix!.samples.reduce((a, x) => a + x, 0) / mix!.samples.length;
    };
    const skyAlone = mixOf([0, 0, 0], [0, 0, 0], WHITE);
    const cardAlone = mixOf([0, 0, 0], WHITE, [0, 0, 0]);
    const ofSky = await samples(skyAlone);
    const ofCard = await samples(cardAlone);
    const ofBoth = await samples(skyAlone, cardAlone);
    expect(ofCard).not.toBe(ofSky);
    expect(ofBoth).toBeGreaterThanOrEqual(Math.max(ofSky, ofCard));
    expect(ofBoth).toBeLessThan(512);
  });

  it('is taken where it lies as it is copied, one after another, whole or a part of the frame', async () => {
    const planes = [...base.planes!, 'depth', 'position', 'normal', 'albedo', 'objects', 'motion'] as const;
    const all = parts(mixOf(WHITE, [0, 0, 0], WHITE), mixOf([0.1, 1, 1], WHITE, WHITE), mixOf(WHITE, WHITE, [2, 2, 2]));
    const region = { left: 7, top: 5, widthPx: 30, heightPx: 29 };
    const noise = { threshold: 0.3, floorNits: 0.05 };
    for (const more of [{}, { region }, { region, noise }]) {
      const s = { ...base, ...more, planes, denoise: true, parts: all };
      const far = { ...room(), middle: [3e5, 0, 0] as const };
      const copies: unknown[] = [];
      const taken: unknown[] = [];
      for (const out of [copies, taken]) {
        const e = await openNodeEngine(2);
        try {
          await e.load(far, s);
          await e.render({ camera, samples: 16 });
          for (const k of all.mixes.keys()) {
            e.mix(k);
            const { rgb, groups } = await e.denoise();
            const clean = [rgb, groups!].map((x) => [...x]);
            const { guideAlbedo: _, guideNormal: __, ...kept } = (out === taken ? e.takePicture() : e.picture()).planes;
            out.push([clean, Object.fromEntries(Object.entries(kept).map(([name, plane]) => [name, plane.slice()]))]);
          }
          await expect(e.render({ camera, samples: 1 }, 16)).rejects.toThrow('was taken');
        } finally {
          await e.close();
        }
      }
      for (const k of all.mixes.keys()) {
        const [a, b] = [copies[k], taken[k]] as [number[][], Record<string, Float32Array>][];
        for (const i of [0, 1]) expect(b![0][i], `denoised ${i} of mix ${k}`).toEqual(a![0][i]);
        for (const name of Object.keys(a![1]))
          expect(
            b![1][name]!.every((x, i) => Object.is(x, a![1][name]![i])),
            `${name} of mix ${k}`,
          ).toBe(true);
      }
    }
  });

  it('is refused of a film without parts', async () => {
    const e = await openNodeEngine(1);
    try {
      await e.load(room(), base);
      expect(() => e.mix(0)).toThrow('not traced for such a lighting');
    } finally {
      await e.close();
    }
  });
});

describe('denoised', () => {
  const error = (a: Float32Array, b: Float32Array) =>
    a.reduce((sum, x, i) => sum + (i % 4 === 3 ? 0 : (x - b[i]!) ** 2 / (b[i]! ** 2 + 0.01)), 0);
  const withAlpha = (rgb: Float32Array, like: Float32Array) =>
    like.map((x, i) => (i % 4 === 3 ? x : rgb[(i >> 2) * 3 + (i % 4)]!));

  it('a mix is nearer to what it would be after many samples than it was', async () => {
    const shares: readonly Rgb[] = [[0.2, 0.2, 0.2], WHITE, [0.5, 0.5, 0.5]];
    const s = { ...base, denoise: true, parts: parts(mixOf(...shares)) };
    const reference = await traced(room(...(shares as [Rgb, Rgb, Rgb])), base, 1024);
    const e = await openNodeEngine(2);
    try {
      await e.load(room(), s);
      await e.render({ camera, samples: 16 });
      e.mix(0);
      const noisy = e.picture().rgba;
      const { rgb } = await e.denoise();
      expect(error(withAlpha(rgb, noisy), reference.rgba) / error(noisy, reference.rgba)).toBeLessThan(0.5);
    } finally {
      await e.close();
    }
  });

  it('light groups hold their own light beside what glows, and what is lit by nothing is in none', async () => {
    for (const mixes of [undefined, parts(mixOf(WHITE, WHITE, WHITE))]) {
      const e = await openNodeEngine(2);
      try {
        const s = { ...base, denoise: true, ...(mixes && { parts: mixes }) };
        // the card towards the camera
        const shown = room();
        const card = [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0, 1, 1, 0.5, 1];
        const instances = shown.instances.map((i) => (i.name === 'card' ? { ...i, matrix: card } : i));
        await e.load({ ...shown, instances, environmentGroup: mixes ? 2 : 1 }, s);
        await e.render({ camera, samples: 32 });
        if (mixes) e.mix(0);
        const { rgb, groups } = await e.denoise();
        const p = e.picture();
        const pixels = SIZE * SIZE;
        const of = (list: ArrayLike<number>, group: number, pixel: number) => list[(group * pixels + pixel) * 3 + 1]!;
        let glowing = 0;
        let sign = 0;
        for (let i = 0; i < pixels; i++) {
          const emission = p.planes.emission![i * 3 + 1]!;
          if (emission > 3.9) {
            glowing++;
            // the lamp has no share of what glows by itself
            expect(of(groups!, 0, i)).toBeLessThan(0.4);
          }
          if (Math.abs(emission - 0.7) < 1e-4) {
            sign++;
            expect(of(groups!, 0, i) + of(groups!, 1, i)).toBeLessThan(0.1);
            expect(rgb[i * 3 + 1]).toBeCloseTo(0.7, 1);
          }
        }
        expect(glowing).toBeGreaterThan(20);
        expect(sign).toBeGreaterThan(0);
        // together they are the picture, but for what is lit by nothing
        const unlit = (light: (i: number) => number, inGroups: ArrayLike<number>) => {
          let sum = 0;
          for (let i = 0; i < pixels * 3; i++) sum += light(i) - inGroups[i]! - inGroups[pixels * 3 + i]!;
          return sum;
        };
        const before = unlit((i) => p.rgba[Math.floor(i / 3) * 4 + (i % 3)]!, p.planes.groups!);
        expect(before).toBeGreaterThan(sign);
        expect(unlit((i) => rgb[i]!, groups!) / before).toBeCloseTo(1, 1);
      } finally {
        await e.close();
      }
    }
  });
});

describe('a panel that the camera does not see', () => {
  const down = [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 1, 0, 1];
  const square = (nits: number, seenByCamera = false) =>
    ({
      type: 'rectangle',
      matrix: down,
      widthM: 1.5,
      heightM: 1.5,
      radianceNits: [nits, nits, nits],
      seenByCamera,
    }) as const;
  const ground = { ...matte, baseColor: [0.5, 0.5, 0.5, 1] } as const;
  const under = (nits: number, sky: number, seen = false) =>
    scene({
      meshes: [floor(4)],
      materials: [ground],
      instances: [{ name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL }],
      lights: [square(nits, seen)],
      ...(sky > 0 && { environment: constantSky(sky) }),
    });
  const shot = { camera: downCamera(0.9, 0.05), settings: settings(16, 16, 3), samples: 512 };

  it('is light alone: beside a sky it adds what it gives without one, and takes nothing away', async () => {
    const both = mean(await shoot(under(2, 1), shot));
    const lamp = mean(await shoot(under(2, 0), shot));
    const sky = mean(await shoot(under(1e-9, 1), shot));
    const bare = mean(await shoot({ ...under(2, 1), lights: [] }, shot));
    expect(both / (lamp + sky)).toBeCloseTo(1, 2);
    expect(sky / bare).toBeCloseTo(1, 2);
  });

  it('hides nothing in a mirror, and is seen there; one that the camera sees does hide', async () => {
    const mirror = { ...matte, metallic: 1, roughness: 0, specular: 1 } as const;
    const lid = { name: 'lid', mesh: 1, material: 1, matrix: [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0, 0, 1.5, 0, 1] };
    const look = (seen: boolean) =>
      shoot(
        scene({
          ...under(2, 0, seen),
          meshes: [floor(4), floor(4)],
          materials: [mirror, glow([3, 3, 3])],
          instances: [
            { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
            { ...lid, mask: MASK.ALL },
          ],
        }),
        { ...shot, camera: downCamera(0.9, 0.02), samples: 16 },
      );
    expect(mean(await look(false))).toBeCloseTo(5, 2);
    expect(mean(await look(true))).toBeCloseTo(2, 2);
  });

  it('gives a path at its last scattering the light that stands behind it', async () => {
    const s = { ...shot, settings: settings(16, 16, 1) };
    const bare = mean(await shoot({ ...under(2, 1), lights: [] }, s));
    const lamp = mean(await shoot(under(2, 0), s));
    expect(mean(await shoot(under(2, 1), s)) / (bare + lamp)).toBeCloseTo(1, 2);
  });

  it('inside a tinted solid is weakened with what stands behind it by the whole way', async () => {
    const tint = {
      ...matte,
      transmission: 1,
      roughness: 0,
      ior: 1,
      specular: 0,
      solid: true,
      doubleSided: false,
      attenuation: [1, 1, 1] as const,
    };
    const towardsCamera = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
    const film = await shoot(
      scene({
        meshes: [sphere(48), floor(2)],
        materials: [tint, { ...glow([3, 3, 3]), doubleSided: true }],
        instances: [
          { name: 'block', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
          {
            name: 'back',
            mesh: 1,
            material: 1,
            matrix: [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0, 0, 0, -2, 1],
            mask: MASK.ALL,
          },
        ],
        lights: [{ ...square(1e-9), matrix: towardsCamera }],
      }),
      { camera: frontCamera(4, 0.01), settings: settings(8, 8, 8), samples: 4096 },
    );
    expect(mean(film) / (3 * Math.exp(-2))).toBeCloseTo(1, 2);
  });
});
