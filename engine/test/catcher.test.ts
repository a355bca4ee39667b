// Shadow catchers: a plate keeps its own light, but for what things take and send. Held against ordinary renders with
// and without the things.
import { describe, expect, it } from 'vitest';
import {
  type EngineCamera,
  type EngineInstance,
  type EngineScene,
  MASK,
  type Picture,
  type RenderSettings,
  caughtLight,
  shadowLayer,
  uncaught,
} from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import {
  IDENTITY,
  constantSky,
  downCamera,
  floor,
  glow,
  matte,
  scene,
  settings,
  sphere,
  translated,
} from './fixtures.ts';

const SIZE = 32;
const CATCHER = MASK.ALL | MASK.CATCHER;
const base: RenderSettings = { ...settings(SIZE), planes: ['caught', 'behind'] };
/** Looks down on 2 × 2 m of the ground. */
const above = downCamera(4, 1);
const grey = { ...matte, name: 'grey', baseColor: [0.5, 0.5, 0.5, 1] as const };
const black = { ...matte, name: 'black', baseColor: [0, 0, 0, 1] as const };
/** A card that faces up, so high over the ground. */
const card = (x: number, y: number, z: number, material = 1): EngineInstance => ({
  name: 'card',
  mesh: 1,
  material,
  matrix: translated(x, y, z),
  mask: MASK.ALL,
});
const FACES_DOWN = (x: number, y: number, z: number) => [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0, x, y, z, 1];
const sun = {
  type: 'sun' as const,
  direction: [0.6, -0.8, 0] as const,
  illuminanceLux: [3, 3, 3] as const,
  angularDiameterRad: 0.02,
};

interface Stood {
  readonly ground?: number;
  readonly more?: readonly EngineInstance[];
  readonly of?: Partial<EngineScene>;
}
/** A ground, grey at first, with things on it. */
const place = ({ ground = CATCHER, more = [], of = {} }: Stood): EngineScene =>
  scene({
    meshes: [floor(8), floor(0.3), sphere(16, 0.3)],
    materials: [grey, black, glow([5, 4, 3]), { ...matte, name: 'mirror', metallic: 1, roughness: 0.02 }],
    instances: [{ name: 'ground', mesh: 0, material: 0, matrix: IDENTITY, mask: ground }, ...more],
    environment: constantSky(0.4),
    ...of,
  });

interface Taken {
  readonly samples?: number;
  readonly threads?: number;
  readonly camera?: EngineCamera;
  readonly samplesPerPass?: number;
  readonly with?: Partial<RenderSettings>;
}
async function take(what: EngineScene, t: Taken = {}): Promise<Picture> {
  const e = await openNodeEngine(t.threads ?? 1, true);
  try {
    await e.load(what, { ...base, ...t.with });
    await e.render({ camera: t.camera ?? above, samples: t.samples ?? 32, samplesPerPass: t.samplesPerPass ?? 8 });
    return e.picture();
  } finally {
    await e.close();
  }
}
const seen = (p: Picture) => uncaught(p.rgba, caughtLight(p)!, p.planes.behind!);
const shadowOf = (p: Picture, denoised?: Float32Array) => shadowLayer(caughtLight(p, denoised)!, p.planes.behind!);
/** Of the pixel that shows a place of the ground, metres right and down of the middle. */
const pixelAt = (x: number, z: number) => Math.floor(((z + 1) / 2) * SIZE) * SIZE + Math.floor(((x + 1) / 2) * SIZE);
const green = (list: Float32Array, pixel: number, stride = 4) => list[pixel * stride + 1]!;
const meanOf = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;

describe('a shadow catcher', () => {
  it('with nothing on it is not there, to the bit: in sky, sun, lamps and fog', async () => {
    const lamp = { type: 'point', position: [1, 2, 1], intensityCd: [9, 9, 9], radiusM: 0.1 } as const;
    const fog = { extinctionPerM: 0.1, albedo: [0.9, 0.9, 0.9], anisotropy: 0.3, topM: 1 } as const;
    for (const of of [{}, { lights: [sun] }, { lights: [lamp], environment: undefined }]) {
      const p = await take(place({ of }), { samples: 8 });
      expect(shadowOf(p).every((x) => x === 1)).toBe(true);
      const { film, open } = seen(p);
      const sky = of.environment === undefined && 'environment' in of ? 0 : 0.4;
      for (let i = 0; i < SIZE * SIZE; i++) {
        expect(film[i * 4 + 1]).toBeCloseTo(sky, 5);
        expect(film[i * 4 + 3]).toBe(0);
        expect(open[i * 3]).toBe(1);
      }
    }
    const misty = await take(place({ of: { lights: [sun], fog } }), { samples: 8 });
    const shadow = shadowOf(misty);
    for (let i = 0; i < SIZE * SIZE; i++) expect(green(shadow, i)).toBe(1);
    expect(seen(misty).film[3]).toBeGreaterThan(0.1); // what is fog covers
  });

  it('is as dark as the ground would be with the thing, to what it would be without', async () => {
    const light = { lights: [sun] };
    const thing = [card(0.2, 0.4, 0)];
    const p = await take(place({ more: thing, of: light }), { samples: 256 });
    const ordinary = { with: { planes: [] }, samples: 256 };
    const withThing = await take(place({ ground: MASK.ALL, more: thing, of: light }), ordinary);
    const without = await take(place({ ground: MASK.ALL, of: light }), ordinary);
    const shadow = shadowOf(p);
    const errors: number[] = [];
    let darkest = 1;
    for (let i = 0; i < SIZE * SIZE; i++) {
      if (shadow[i * 4 + 3] !== 1) continue; // the card itself
      const truth = green(withThing.rgba, i) / green(without.rgba, i);
      darkest = Math.min(darkest, truth);
      errors.push(Math.abs(green(shadow, i) - truth));
    }
    expect(errors.length).toBeGreaterThan(600);
    expect(darkest).toBeLessThan(0.5);
    expect(meanOf(errors)).toBeLessThan(0.01);
    expect(Math.max(...errors)).toBeLessThan(0.09);
  });

  it('shows no light of a lamp where a thing is in its way, and all of it beside', async () => {
    const lamp = { type: 'point', position: [0, 3, 0], intensityCd: [9, 9, 9], radiusM: 0 } as const;
    const p = await take(place({ more: [card(0, 1.5, 0)], of: { lights: [lamp], environment: undefined } }), {
      camera: { ...above, nearM: 2.6 }, // the card itself is cut away
    });
    const { film, open } = seen(p);
    const shadow = shadowOf(p);
    // half a metre and a little: twice the card, as the lamp is twice as high
    for (const [x, covered] of [
      [0, 1],
      [0.5, 1],
      [0.7, 0],
      [-0.9, 0],
    ] as const) {
      const i = pixelAt(x, 0.1);
      expect(green(shadow, i), `${x} m`).toBe(1 - covered);
      expect(film[i * 4 + 3]).toBe(covered);
      expect(open[i * 3]).toBe(1 - covered);
      expect(green(film, i)).toBe(0);
    }
  });

  it('takes the light that a glowing thing sends, and no other, as light that is added', async () => {
    const lit = [{ ...card(0.4, 0.5, 0, 2), matrix: FACES_DOWN(0.4, 0.5, 0) }, card(-0.5, 0.02, 0, 1)];
    const dark = { environment: undefined };
    const p = await take(place({ more: lit, of: dark }), { samples: 256 });
    const ordinary = await take(place({ ground: MASK.ALL, more: lit, of: dark }), {
      samples: 256,
      with: { planes: [] },
    });
    expect(shadowOf(p).every((x, i) => i % 4 === 3 || x === 1)).toBe(true); // no light of the place, no shadow
    expect([...seen(p).film.filter((_, i) => i % 4 !== 3)]).toEqual([...ordinary.rgba.filter((_, i) => i % 4 !== 3)]);
    const light = caughtLight(p)!.sent;
    const i = pixelAt(0, 0.5);
    expect(green(light, i, 3)).toBeGreaterThan(0.1);
    expect(green(light, i, 3)).toBe(green(ordinary.rgba, i));
  });

  it('mirrors things, and leaves what it mirrors of the place to the plate', async () => {
    const what = place({
      more: [{ ...card(0, 0.5, 0, 2), matrix: FACES_DOWN(0, 0.5, 0) }],
    });
    const wet: EngineScene = {
      ...what,
      materials: what.materials.map((m, i) => (i === 0 ? { ...grey, metallic: 1, roughness: 0.05 } : m)),
    };
    const slanted: EngineCamera = {
      ...above,
      matrix: [1, 0, 0, 0, 0, 0.8, -0.6, 0, 0, 0.6, 0.8, 0, 0, 1.5, 2, 1],
      halfHeight: 0.5,
    };
    const p = await take(wet, { camera: slanted, samples: 64 });
    const { film } = seen(p);
    const light = caughtLight(p)!.sent;
    let mirrored = 0;
    let clear = 0;
    for (let i = 0; i < SIZE * SIZE; i++) {
      if (p.planes.behind![i * 4 + 3] !== 1) continue;
      if (green(light, i, 3) > 1.5) mirrored++;
      if (green(light, i, 3) < 0.02 && Math.abs(green(film, i) - 0.4) < 0.01) clear++;
    }
    expect(mirrored).toBeGreaterThan(10);
    expect(clear).toBeGreaterThan(200);
  });

  it('is not darkened where another catcher keeps the light away already', async () => {
    // a wall of the place to the left, from where the sun comes; the card stands in the wall's shadow
    const wall: EngineInstance = {
      name: 'wall',
      mesh: 0,
      material: 0,
      matrix: [0, 1, 0, 0, -1, 0, 0, 0, 0, 0, 1, 0, -1.2, 0, 0, 1],
      mask: CATCHER,
    };
    const light = { lights: [sun], environment: undefined };
    const thing = card(0, 0.4, 0);
    const shaded = shadowOf(await take(place({ more: [wall, thing], of: light })));
    const open = shadowOf(await take(place({ more: [thing], of: light })));
    const i = pixelAt(0.4, 0);
    expect(green(open, i)).toBe(0);
    expect(green(shaded, i)).toBe(1);
  });

  it('hides what stands behind it, and shows the place there', async () => {
    const below = { ...card(0, -0.5, 0, 2) };
    const p = await take(place({ more: [below] }));
    const { film } = seen(p);
    for (let i = 0; i < SIZE * SIZE; i++) {
      expect(green(film, i)).toBeCloseTo(0.4, 5);
      expect(film[i * 4 + 3]).toBe(0);
    }
  });

  it('under glass is as dark as what gets through takes away', async () => {
    const glass = {
      ...matte,
      name: 'glass',
      transmission: 1,
      roughness: 0,
      specular: 0,
      baseColor: [0.25, 0.5, 1, 1] as const,
    };
    const what = place({
      more: [card(0, 0.4, 0, 4)],
      of: { lights: [{ ...sun, direction: [0.6, -0.8, 0] }], environment: undefined },
    });
    const p = await take({ ...what, materials: [...what.materials, glass] }, { samples: 64 });
    const shadow = shadowOf(p);
    const i = pixelAt(0.5, 0);
    expect(shadow[i * 4]).toBeCloseTo(0.25, 2);
    expect(shadow[i * 4 + 1]).toBeCloseTo(0.5, 2);
    expect(shadow[i * 4 + 2]).toBeCloseTo(1, 2);
  });

  it('in a mirror is a surface like any other', async () => {
    const ball: EngineInstance = { name: 'ball', mesh: 2, material: 3, matrix: translated(0, 0.3, 0), mask: MASK.ALL };
    const p = await take(place({ more: [ball] }), { samples: 64 });
    const ordinary = await take(place({ ground: MASK.ALL, more: [ball] }), { samples: 64, with: { planes: [] } });
    const { film } = seen(p);
    let compared = 0;
    for (let i = 0; i < SIZE * SIZE; i++) {
      if (p.planes.behind![i * 4 + 3] !== 0) continue;
      compared++;
      expect(green(film, i)).toBe(green(ordinary.rgba, i));
    }
    expect(compared).toBeGreaterThan(40);
  });
});

describe('a film with shadow catchers', () => {
  const what = place({
    more: [card(0.2, 0.4, 0), { ...card(-0.4, 0.3, 0.2, 2), lightGroup: 2 }],
    of: { lights: [{ ...sun, lightGroup: 0 }], environmentGroup: 1 },
  });
  const planes = (p: Picture) => [p.rgba, p.planes.caught!, p.planes.behind!];

  it('is the same on any number of threads and in any passes', async () => {
    const a = await take(what, { samples: 24, with: { noise: { threshold: 0.2, floorNits: 0.1 } } });
    const b = await take(what, {
      samples: 24,
      threads: 3,
      samplesPerPass: 5,
      with: { noise: { threshold: 0.2, floorNits: 0.1 } },
    });
    planes(a).forEach((list, k) => expect(list).toEqual(planes(b)[k]));
  });

  it('has light groups that add up to what is seen beside the plate', async () => {
    const p = await take(what, { with: { lightGroups: 3, planes: ['caught', 'behind'] } });
    const groups = p.planes.groups!;
    const floats = SIZE * SIZE * 3;
    const { caught } = p.planes;
    for (let i = 0; i < SIZE * SIZE; i++)
      for (let c = 0; c < 3; c++) {
        const at = i * 3 + c;
        const sum = groups[at]! + groups[floats + at]! + groups[2 * floats + at]!;
        const unlit = p.rgba[i * 4 + c]! - caught![at]! - sum;
        if (p.planes.behind![i * 4 + 3] === 1) expect(Math.abs(unlit)).toBeLessThan(1e-4);
      }
  });

  it('is denoised with its shadow, which comes nearer to the truth', async () => {
    const large = { ...base, ...settings(64), planes: base.planes!, denoise: true };
    const e = await openNodeEngine(2, true);
    try {
      await e.load(what, large);
      await e.render({ camera: above, samples: 12 });
      const { rgb, caught } = await e.denoise();
      const p = e.picture();
      const film = p.rgba.map((x, i) => (i % 4 === 3 ? x : rgb[(i >> 2) * 3 + (i & 3)]!));
      const truth = shadowOf(await take(what, { samples: 256, with: large }));
      const apart = (list: Float32Array) =>
        Math.sqrt(meanOf(Array.from(list, (x, i) => (i % 4 === 3 ? 0 : (x - truth[i]!) ** 2))));
      expect(apart(shadowOf(p, caught))).toBeLessThan(apart(shadowOf(p)) * 0.8);
      const shown = uncaught(film, caughtLight(p, caught)!, p.planes.behind!).film;
      expect(shown.every((x) => x >= 0 && Number.isFinite(x))).toBe(true);
    } finally {
      await e.close();
    }
  });
});
