// Textures whose finer levels are loaded when something looks at them: the picture is that of the whole textures, to
// the bit.
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  type Engine,
  EngineError,
  type EngineMaterial,
  type EngineMesh,
  type EngineScene,
  type EngineTexture,
  MASK,
  type RenderSettings,
  type SceneMesh,
  type TextureSlot,
  type TextureUse,
  madeLevels,
  readStoredHead,
  storableTextures,
} from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { srgbTextures } from '../host/packTextures.ts';
import {
  constantSky,
  downCamera,
  floor,
  glow,
  matte,
  mean,
  one as oneOf,
  scene,
  settings,
  shoot,
  sphere,
} from './fixtures.ts';
import { FRAME, SHEET, camera } from './randomScenes.ts';
import { numbers } from './soup.ts';

const SAMPLES = 6;
const { noise: _, ...MANY } = FRAME;

let one: Engine;
let two: Engine;
let builder: Engine;
beforeAll(async () => {
  [one, two, builder] = [await openNodeEngine(1, true), await openNodeEngine(2), await openNodeEngine(1)];
});
afterAll(async () => {
  await Promise.all([one, two, builder].map((e) => e.close()));
});

/** Wider than high, higher than wide, no powers of two, and of which all is always there. */
const SIZES = [
  [128, 128],
  [100, 90],
  [65, 256],
  [350, 3],
  [64, 64],
] as const;
const LEAF = { ...SHEET, uv1: SHEET.uv0!.map((x) => x * 0.7 + 0.1) };
const BALL: EngineMesh = ((ball) => ({ ...ball, uv0: ball.positions.filter((_, i) => i % 3 < 2) }))(sphere(8, 0.3));

function textureOf(random: () => number, name: string): EngineTexture {
  const [width, height] = SIZES[Math.floor(random() * SIZES.length)]!;
  const isWide = random() < 0.3;
  const most = isWide ? 65535 : 255;
  const texels = Array.from({ length: width * height * 4 }, () => random() * most);
  return { name, width, height, data: isWide ? Uint16Array.from(texels) : Uint8Array.from(texels) };
}

const COUNT = 20;
function materialsOf(random: () => number): EngineMaterial[] {
  const wraps = ['repeat', 'clamp', 'mirror'] as const;
  const wrap = () => wraps[Math.floor(random() * 3)]!;
  const use = (srgb = false): TextureUse => {
    const size = 10 ** (random() * 2.4 - 2); // from a corner of it to many times
    return {
      // of sRGB are others than of numbers
      texture: Math.floor((random() * COUNT) / 2) + (srgb ? 0 : COUNT / 2),
      srgb,
      uvSet: random() < 0.3 ? 1 : 0,
      wrapS: wrap(),
      wrapT: wrap(),
      matrix: [size, size * 0.1, random(), 0, size, random()],
    };
  };
  const textured = (...slots: readonly TextureSlot[]) => ({
    textures: Object.fromEntries(slots.map((slot) => [slot, use(/base|emission|Color|sheen$/.test(slot))])),
  });
  return [
    { ...matte, name: 'plain', ...textured('base', 'metallicRoughness', 'normal') },
    { ...matte, name: 'metal', metallic: 1, roughness: 0.3, anisotropy: 0.6, ...textured('normal', 'anisotropy') },
    { ...matte, name: 'coated', coat: 1, coatRoughness: 0.4, ...textured('coat', 'coatRoughness', 'coatNormal') },
    { ...matte, name: 'cloth', sheen: [1, 1, 1], sheenRoughness: 0.5, ...textured('base', 'sheen', 'sheenRoughness') },
    {
      ...matte,
      ...{ name: 'glass', transmission: 1, ior: 1.5, specular: 1, solid: true, roughness: 0.1 },
      ...textured('transmission', 'specular', 'specularColor'),
    },
    {
      ...matte,
      ...{ name: 'pane', transmission: 1, ior: 1.5, specular: 1, roughness: 0 },
      ...textured('base', 'iridescence', 'iridescenceThickness'),
      iridescence: 0.5,
    },
    { ...matte, name: 'blended', alphaMode: 'blend', ...textured('base', 'normal') },
    { ...matte, name: 'cut out', alphaMode: 'mask', alphaCutoff: 0.5, ...textured('base') },
    { ...matte, name: 'dark', ...textured('base', 'emission') },
    { ...matte, name: 'drawn', unlit: true, ...textured('base') },
    { ...matte, name: 'bare', ...textured('base') },
    { ...glow([3, 3, 2]), name: 'glow', ...textured('emission') },
  ];
}

/** Sheets and balls in everything that has textures, about a textured floor, with mirrors and fog. */
function sceneOf(seed: number): EngineScene {
  const random = numbers(seed);
  const within = (reach: number) => (random() * 2 - 1) * reach;
  const materials = materialsOf(random);
  const meshes: EngineMesh[] = [
    { ...floor(2), uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]) },
    LEAF,
    BALL,
    floor(0.4),
  ];
  const instances = Array.from({ length: 14 }, (_, i) => {
    const turn = random() * 6;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const at = i ? [within(1.2), within(0.4), within(0.7)] : [0, -0.6, 0];
    const matrix = i
      ? [c, s * 0.5, s, 0, 0, 1, 0, 0, -s, 0, c, 0, ...at, 1]
      : [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, ...at, 1];
    const mesh = i ? 1 + Math.floor(random() * 3) : 0;
    const material = i ? Math.floor(random() * materials.length) : 0;
    return { name: `thing ${i}`, mesh, material, matrix, mask: MASK.ALL };
  });
  return scene({
    meshes,
    materials,
    textures: Array.from({ length: COUNT }, (_, i) => textureOf(random, `texture ${i}`)),
    instances,
    environment: constantSky(0.5),
    lights: [{ type: 'point', position: [0.5, 1.6, 0.3], intensityCd: [5, 5, 5], radiusM: 0.05 }],
    ...(random() < 0.4 && {
      fog: { extinctionPerM: 0.2, albedo: [0.9, 0.9, 0.9], anisotropy: 0.3, topM: 0.3 } as const,
    }),
  });
}

/** Textures level by level, where they need not be whole, and with them the meshes that give no light. */
async function stored(what: EngineScene, read: (level: number) => Promise<void>): Promise<EngineScene<SceneMesh>> {
  const isStorable = storableTextures(what.materials);
  const srgb = srgbTextures(what.materials);
  const textures = what.textures.map((t, i): EngineTexture => {
    if (!isStorable(i) || 'bits' in t.data) return t;
    const levels = madeLevels(t, t.data, 0, srgb.has(i));
    const level = async (k: number) => {
      await read(k);
      return levels[k]!.slice();
    };
    return { ...t, data: { bits: t.data instanceof Uint16Array ? 16 : 8, level } };
  });
  const glowing = new Set(what.instances.filter((o) => what.materials[o.material]!.name === 'glow').map((o) => o.mesh));
  const meshes: SceneMesh[] = [];
  for (const [i, mesh] of what.meshes.entries()) {
    if (glowing.has(i)) {
      meshes.push(mesh);
      continue;
    }
    const all = await builder.store(mesh);
    const part = (from: number, bytes: number) => Promise.resolve(all.slice(from, from + bytes));
    meshes.push({ name: mesh.name, head: readStoredHead(all), read: part });
  }
  return { ...what, textures, meshes };
}
const atOnce = () => Promise.resolve();
async function take(e: Engine, what: EngineScene<SceneMesh>, s: RenderSettings, budgetBytes?: number) {
  const plan = await e.load(what, s, budgetBytes);
  await e.render({ camera, samples: SAMPLES, samplesPerPass: 3 });
  return { plan, picture: e.picture() };
}

describe('a scene whose textures are loaded when something looks at them', () => {
  it('gives the same picture, and loads only the levels that were looked at', async () => {
    let [unmet, met] = [0, 0];
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 1e9 }),
        fc.constantFrom(undefined, 100),
        async (seed, textureCapPx) => {
          const what = sceneOf(seed);
          const s: RenderSettings = { ...MANY, ...(textureCapPx && { textureCapPx }) };
          const { picture: whole } = await take(two, what, s);
          const parts = await stored(what, (level) => new Promise((r) => setTimeout(r, level % 3)));
          for (const e of [one, two]) {
            expect((await take(e, parts, s)).picture).toEqual(whole);
            const { textures, loads, drops, met: pieces } = e.pieces();
            expect([loads, drops]).toEqual([textures.met + pieces, 0]);
            expect(textures.metBytes).toBeLessThanOrEqual(textures.bytes);
            unmet += textures.levels - textures.met;
            met += textures.met;
          }
        },
      ),
      { numRuns: 14 },
    );
    expect(unmet).toBeGreaterThan(10);
    expect(met).toBeGreaterThan(10);
  }, 120_000);

  it('gives the same picture within less memory than it takes, loading again and again', async () => {
    let [drops, fitted] = [0, 0];
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 40, max: 85 }), async (seed, percent) => {
        const what = sceneOf(seed);
        const { picture: whole } = await take(two, what, MANY);
        const parts = await stored(what, atOnce);
        const { totalBytes, piecesBytes } = await two.load(parts, MANY);
        const budget = totalBytes - Math.floor(piecesBytes * (percent / 100));
        for (const e of [builder, two]) {
          const small = await take(e, parts, MANY, budget).catch((x: unknown) => {
            expect((x as EngineError).code).toBe('OUT_OF_MEMORY'); // a path that looks at more than there is room for
          });
          if (!small) continue;
          expect(small.picture).toEqual(whole);
          expect(small.plan.totalBytes).toBeLessThanOrEqual(budget);
          drops += e.pieces().drops;
          fitted++;
        }
      }),
      { numRuns: 10 },
    );
    expect(drops).toBeGreaterThan(5);
    expect(fitted).toBeGreaterThan(4);
  }, 180_000);
});

/** A board that fills the frame, with one texture once over it. */
function board(texture: EngineTexture): EngineScene {
  const base = {
    texture: 0,
    srgb: true,
    uvSet: 0,
    wrapS: 'clamp',
    wrapT: 'clamp',
    matrix: [1, 0, 0, 0, 1, 0],
  } as const;
  return scene({
    meshes: [{ ...floor(1), uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]) }],
    materials: [{ ...matte, textures: { base } }],
    textures: [texture],
    instances: [
      { name: 'board', mesh: 0, material: 0, matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], mask: MASK.ALL },
    ],
    environment: constantSky(1),
  });
}
describe('a texture of 1024 texels on a board', () => {
  const texture = { name: 'board', width: 1024, height: 1024, data: new Uint8Array(1024 * 1024 * 4).fill(200) };
  const seen = async (halfHeight: number, px: number, cap?: number) => {
    const what = await stored(board(texture), atOnce);
    await two.load(what, { ...settings(px, px, 1), ...(cap && { textureCapPx: cap }) });
    await two.render({ camera: downCamera(2, halfHeight), samples: 1 });
    return { finest: two.finestLevels(), bytes: two.takenBytes().textures };
  };
  it('is loaded from the level that fits the pixels, and takes no more', async () => {
    // 120 pixels see all of it: a little more than eight texels a pixel
    const far = await seen(1, 120);
    expect(far.finest).toEqual([3]);
    // a quarter of it each way: two texels a pixel
    const near = await seen(0.25, 120);
    expect(near.finest).toEqual([1]);
    expect((await seen(0.25, 512)).finest).toEqual([0]);
    expect((await seen(0.25, 512, 256)).finest).toEqual([2]); // the finest that the cap leaves
    // small enough to be there always
    expect((await seen(1, 32)).finest).toEqual([4]);
    expect(far.bytes).toBeLessThan(near.bytes / 5);
    const { bytes } = await two.load(board(texture), settings(120, 120, 1));
    expect(near.bytes).toBeLessThan(bytes.textures / 3);
  });

  it('that cannot be read, or is not as it says, ends the render in words, and the engine goes on', async () => {
    const broken = (level: () => Promise<Uint8Array>) => {
      const data = {
        bits: 8 as const,
        level: (k: number) => (k > 3 ? Promise.resolve(new Uint8Array(((1024 >> k) ** 2 || 1) * 4)) : level()),
      };
      return two.load(board({ ...texture, data }), settings(120, 120, 1));
    };
    const render = () => two.render({ camera: downCamera(2, 1), samples: 1 });
    await broken(() => Promise.reject(new EngineError('BAD_TEXTURE', 'Texture “board” is gone.')));
    await expect(render()).rejects.toThrow('Texture “board” is gone.');
    await broken(() => Promise.resolve(new Uint8Array(12)));
    await expect(render()).rejects.toThrow(/“board” holds 12 values instead of 65536/);
    expect((await seen(1, 120)).finest).toEqual([3]);
  });

  it('of which not even one level fits is refused, with what is largest', async () => {
    const what = await stored(board(texture), atOnce);
    const { totalBytes, piecesBytes } = await two.load(what, settings(512, 512, 1));
    await expect(two.load(what, settings(512, 512, 1), totalBytes - piecesBytes + 1e6)).rejects.toThrow(
      /needs .* budget/,
    );
    await two.load(what, settings(512, 512, 1), totalBytes - piecesBytes + 4.3e6);
    await two.render({ camera: downCamera(2, 0.25), samples: 1 });
    expect(two.finestLevels()).toEqual([0]);
  });
});

describe('levels of a texture', () => {
  it('go over into each other as a surface goes away, without a step', async () => {
    const SIDE = 256;
    const LEVELS = 9;
    // each level of a brightness of its own
    const level = (k: number) =>
      Promise.resolve(new Uint8Array((SIDE >> k) ** 2 * 4).fill(Math.round((255 * k) / (LEVELS - 1))));
    const base = {
      texture: 0,
      srgb: false,
      uvSet: 0,
      wrapS: 'repeat',
      wrapT: 'repeat',
      matrix: [1, 0, 0, 0, 1, 0],
    } as const;
    const sheet = { ...floor(1), uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]) };
    const what = scene({
      ...oneOf(sheet, { ...matte, unlit: true, textures: { base } }),
      textures: [{ name: 'levels', width: SIDE, height: SIDE, data: { bits: 8, level } }],
    });
    const seen: number[] = [];
    for (let step = 0; step <= 48; step++) {
      const half = 0.002 * 2 ** (step / 8);
      const film = await shoot(what, { camera: downCamera(1, half), settings: settings(4), samples: 4 });
      seen.push(mean(film));
    }
    expect(seen[0]).toBe(0);
    expect(seen.at(-1)).toBeGreaterThan(0.3);
    for (let k = 1; k < seen.length; k++) {
      expect(seen[k]! - seen[k - 1]!).toBeGreaterThanOrEqual(-1e-6);
      expect(seen[k]! - seen[k - 1]!).toBeLessThan(0.025); // a level is 0.125, eight steps
    }
  });
});
