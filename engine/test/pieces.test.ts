// Meshes that are loaded when a ray reaches them: the picture is that of the whole scene, to the bit, however little of
// it is in memory at a time.
import { createHash } from 'node:crypto';
import { totalmem } from 'node:os';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  type Engine,
  type EngineCamera,
  EngineError,
  type EngineMesh,
  type EngineScene,
  MASK,
  type MemoryPlan,
  type Picture,
  type RenderSettings,
  type SceneMesh,
  readStoredHead,
} from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { constantSky, downCamera, floor, matte, scene, settings, sphere, translated } from './fixtures.ts';
import { FRAME, GLOW, camera, sceneOf } from './randomScenes.ts';
import { numbers } from './soup.ts';

const SAMPLES = 9;

let one: Engine;
let two: Engine;
let builder: Engine;
beforeAll(async () => {
  [one, two, builder] = [await openNodeEngine(1, true), await openNodeEngine(2), await openNodeEngine(1)];
});
afterAll(async () => {
  await Promise.all([one, two, builder].map((e) => e.close()));
});

/** How often something was read. */
let reads = 0;
/** All meshes kept elsewhere, but for those that give light; each object has a mesh of its own. */
async function stored(
  what: EngineScene,
  more: { readonly failsAt?: number; readonly onRead?: () => void } = {},
): Promise<EngineScene<SceneMesh>> {
  const meshes: SceneMesh[] = [];
  reads = 0;
  const made = new Map<EngineMesh, Uint8Array>();
  const instances = [];
  for (const o of what.instances) {
    const mesh = what.meshes[o.mesh]!;
    if (!made.has(mesh)) made.set(mesh, await builder.store(mesh));
    const all = made.get(mesh)!;
    const at = meshes.length;
    const read = async (from: number, bytes: number) => {
      const mine = ++reads;
      more.onRead?.();
      if (mine < 40) await new Promise((r) => setTimeout(r, at % 3)); // in another order than they are asked for
      if (mine === more.failsAt) throw new EngineError('BAD_MESH', `“${o.name}” cannot be read.`);
      return all.slice(from, from + bytes);
    };
    meshes.push(o.material === GLOW ? mesh : { name: o.name, head: readStoredHead(all), read });
    instances.push({ ...o, mesh: at });
  }
  return { ...what, meshes, instances };
}
async function take(
  e: Engine,
  what: EngineScene<SceneMesh>,
  budgetBytes?: number,
  more: Partial<RenderSettings> = {},
): Promise<[Picture, MemoryPlan]> {
  const plan = await e.load(what, { ...FRAME, ...more }, budgetBytes);
  await e.render({ camera, samples: SAMPLES, samplesPerPass: 3 });
  return [e.picture(), plan];
}
/** A path that meets more than there is room for is refused, in words. */
const refused = (error: unknown): undefined => {
  expect((error as EngineError).code).toBe('OUT_OF_MEMORY');
};
const isSame = (a: Picture, b: Picture) => {
  expect(a.samples).toEqual(b.samples);
  expect(a.rgba).toEqual(b.rgba);
  expect(a.planes).toEqual(b.planes);
};

describe('a scene whose meshes are loaded when rays reach them', () => {
  it('gives the same picture, and loads only what was met', async () => {
    let unmet = 0;
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), async (seed) => {
        const { what } = sceneOf(seed);
        const [full] = await take(two, what);
        const parts = await stored(what);
        for (const e of [one, two]) {
          isSame((await take(e, parts))[0], full);
          const { pieces, met, loads, drops } = e.pieces();
          expect([loads, drops]).toEqual([met, 0]);
          unmet += pieces - met;
        }
      }),
      { numRuns: 5 },
    );
    expect(unmet).toBeGreaterThan(5);
  }, 120_000);

  it('gives the same picture in waves of any size', async () => {
    let fitted = 0;
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 1e9 }),
        fc.integer({ min: 30, max: 9000 }),
        async (seed, wavePaths) => {
          const { what } = sceneOf(seed);
          const [full] = await take(two, what);
          for (const e of [builder, two]) isSame((await take(e, what, undefined, { wavePaths }))[0], full);
          const parts = await stored(what);
          const plan = await two.load(parts, { ...FRAME, wavePaths });
          const budget = plan.totalBytes - Math.floor(plan.piecesBytes * 0.15);
          const small = await take(two, parts, budget, { wavePaths }).catch(refused);
          if (small) isSame(small[0], full);
          fitted += Number(small !== undefined);
        },
      ),
      { numRuns: 4 },
    );
    expect(fitted).toBeGreaterThan(1);
  }, 120_000);

  it('gives the same picture within less memory than it takes, loading again and again', async () => {
    let drops = 0;
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 25, max: 60 }), async (seed, percent) => {
        const { what } = sceneOf(seed);
        const [full] = await take(two, what);
        const parts = await stored(what);
        const plan = await two.load(parts, FRAME);
        // all, or less
        const budget = plan.totalBytes - Math.floor(plan.piecesBytes * (percent / 100));
        for (const e of [builder, two]) {
          const small = await take(e, parts, budget).catch(refused);
          if (!small) continue;
          isSame(small[0], full);
          expect(small[1].totalBytes).toBeLessThanOrEqual(budget);
          expect(e.pieces().mostBytes).toBeLessThanOrEqual(small[1].piecesBytes);
          drops += e.pieces().drops;
        }
      }),
      { numRuns: 8 },
    );
    expect(drops).toBeGreaterThan(5);
  }, 180_000);
});

/** Spheres in a row behind each other, each with its own mesh; the camera looks along the row. */
function row(count: number): EngineScene {
  const random = numbers(7);
  return scene({
    meshes: Array.from({ length: count }, (_, i) => ({ ...sphere(16, 0.2), name: `ball ${i}` })),
    materials: [matte],
    instances: Array.from({ length: count }, (_, i) => ({
      name: `ball ${i}`,
      mesh: i,
      material: 0,
      matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, (random() - 0.5) * 3, -i * 0.3, (random() - 0.5) * 1.5, 1],
      mask: MASK.ALL,
    })),
    environment: constantSky(1),
  });
}

/** Balls in front of a wall, each in a part of the frame of its own. */
function wall(): EngineScene {
  const balls = Array.from({ length: 32 }, (_, i) => [(i % 8) - 3.5, Math.floor(i / 8) - 1.5] as const);
  return scene({
    meshes: [floor(6), ...balls.map((_, i) => ({ ...sphere(24, 0.3), name: `ball ${i}` }))],
    materials: [matte],
    instances: [
      {
        name: 'wall',
        mesh: 0,
        material: 0,
        matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -0.5, 0, 1],
        mask: MASK.ALL,
      },
      ...balls.map(([x, z], i) => ({
        name: `ball ${i}`,
        mesh: i + 1,
        material: 0,
        matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0, z, 1],
        mask: MASK.ALL,
      })),
    ],
    environment: constantSky(1),
  });
}
const WALL_CAMERA = downCamera(8, 2.1);

describe('a job whose meshes are loaded when rays reach them', () => {
  it('is refused in words where what rays meet at once does not fit, and the engine does the next', async () => {
    const what = row(30);
    const parts = await stored(what);
    const plan = await two.load(parts, FRAME);
    const one = Math.max(...plan.meshes.flatMap((m) => m.stored!.places.map((p) => p.bytes)));
    await two.load(parts, FRAME, plan.totalBytes - plan.piecesBytes + one * 1.2);
    await expect(two.render({ camera, samples: 2 })).rejects.toThrow(
      /single light path meets does not fit in the .* MiB .* Raise the budget/,
    );
    isSame((await take(two, parts))[0], (await take(two, what))[0]);
  });

  it('is refused before anything is loaded where the rest leaves room for no mesh', async () => {
    const parts = await stored(row(3));
    const plan = await two.load(parts, FRAME);
    await expect(two.load(parts, FRAME, plan.totalBytes - plan.piecesBytes + 64)).rejects.toMatchObject({
      code: 'OUT_OF_MEMORY',
    });
  });

  it('that cannot read a mesh fails with the reason, and the engine does the next', async () => {
    const what = wall();
    await two.load(await stored(what, { failsAt: 20 }), FRAME);
    await expect(two.render({ camera: WALL_CAMERA, samples: 2 })).rejects.toThrow(/“.+” cannot be read/);
    isSame((await take(two, await stored(what)))[0], (await take(two, what))[0]);
  });

  it('can be cancelled while threads wait, and while there is too little room', async () => {
    const what = row(30);
    let stop = new AbortController();
    let left = Infinity;
    const parts = await stored(what, {
      onRead: () => {
        if (--left === 0) stop.abort();
      },
    });
    const plan = await two.load(parts, FRAME);
    for (const share of [1, 0.5]) {
      await two.load(parts, FRAME, plan.totalBytes - plan.piecesBytes * (1 - share));
      stop = new AbortController();
      left = share === 1 ? 3 : 12; // of some that are asked for together; in the middle of loading in turns
      const rendering = two.render({ camera, samples: 64, signal: stop.signal });
      await expect(rendering).rejects.toMatchObject({ code: 'CANCELLED' });
    }
    isSame((await take(two, parts))[0], (await take(two, what))[0]);
  });

  it('goes on with more and fewer threads, in goes and in rows, with little more than half of it in memory', async () => {
    const frame = settings(256, 128, 1);
    const what = wall();
    await two.load(what, frame);
    await two.render({ camera: WALL_CAMERA, samples: 4 });
    const full = two.picture();
    const parts = await stored(what);
    const plan = await two.load(parts, frame);
    await two.load(parts, frame, plan.totalBytes - Math.floor(plan.piecesBytes * 0.4));
    let threads = 2;
    const changing = setInterval(() => two.setThreads((threads = (threads + 1) % 3)), 15);
    try {
      await two.render({ camera: WALL_CAMERA, samples: 2, samplesPerPass: 1 });
      await two.render({ camera: WALL_CAMERA, samples: 2, rows: { from: 2, to: 4 } }, 2);
      await two.render({ camera: WALL_CAMERA, samples: 2, rows: { from: 0, to: 2 } }, 2);
    } finally {
      clearInterval(changing);
      two.setThreads(2);
    }
    isSame(two.picture(), full);
    expect(two.pieces().drops).toBeGreaterThan(30);
  });

  it('knows its bytes from others', async () => {
    const all = await builder.store(floor(1));
    expect(() => readStoredHead(all.slice(0, 100))).toThrow(/damaged/);
    expect(() => readStoredHead(all.slice(0, 200))).toThrow(/damaged/);
    expect(() => readStoredHead(new Uint8Array(1000))).toThrow(/damaged/);
    const cut = { name: 'floor', head: readStoredHead(all), read: () => Promise.resolve(all.slice(0, 64)) };
    const what = { ...row(1), meshes: [cut] };
    await two.load(what, settings(32, 24, 2));
    await expect(two.render({ camera: downCamera(2, 1), samples: 1 })).rejects.toThrow(/damaged/);
  });

  it('of one large mesh loads the part that is met, and all of it for who sees all', async () => {
    const hill = sphere(96, 1); // 18,000 triangles
    const what = { ...row(1), meshes: [hill] };
    const close = { ...downCamera(1.3, 0.05), lensRadiusM: 0 };
    const frame = { ...settings(48, 32, 4), planes: FRAME.planes! };
    const taken = async (scene: EngineScene<SceneMesh>, camera: EngineCamera) => {
      await two.load(scene, frame);
      await two.render({ camera, samples: 4 });
      return two.picture();
    };
    const parts = await stored(what);
    isSame(await taken(parts, close), await taken(what, close));
    await taken(parts, close);
    const part = two.pieces();
    expect(part.pieces).toBeGreaterThan(30);
    expect(part.met).toBeLessThan(part.pieces / 4);
    expect(part.metBytes).toBeLessThan((await two.load(parts, frame)).piecesBytes / 4);
    const around = { ...camera, halfHeight: 1.2 };
    isSame(await taken(parts, around), await taken(what, around));
    await taken(parts, around);
    expect(two.pieces().met).toBeGreaterThan(part.met);
  });

  it('far from its own origin stands where it stood', async () => {
    const moved = floor(1);
    const far = { ...moved, positions: moved.positions.map((x, i) => x + (i % 3 === 0 ? 5000 : 0)) };
    const at = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -5000, 0, 0, 1];
    const what = { ...row(1), meshes: [far], instances: row(1).instances.map((o) => ({ ...o, matrix: at })) };
    isSame((await take(two, await stored(what)))[0], (await take(two, what))[0]);
  });
});

/** Its film alone takes more: what comes after it stands beyond 2 GiB. */
const BEYOND = { widthPx: 8192, heightPx: 4224 };
const ROWS = 32;
/** Megabytes that are held against each other by what tells them apart. */
const digest = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
/** Which of several shadows counts depends on what was loaded first: what is seen does not. */
const seenIn = (e: Engine) => e.evidence().map(({ seen, bounced }) => [seen, bounced]);
describe('a job of more than 2 GiB', () => {
  it.skipIf(totalmem() < 8 * 2 ** 30)(
    'gives the same picture, with its meshes loaded beyond them',
    async () => {
      const planes = ['objects', 'leftOut'] as const;
      const box = { min: [-1, -1, -1], max: [1, 1, 1] } as const;
      const leftOut = [{ name: 'gone', ...box, matrix: translated(2, 0, -4), mask: MASK.ALL, nits: 3 }];
      const parts = { ...(await stored(wall())), leftOut };
      const large: RenderSettings = { ...settings(BEYOND.widthPx, BEYOND.heightPx, 2), planes, evidence: { finer: 1 } };
      const plan = await two.load(parts, large);
      expect(plan.scratch).toBeGreaterThan(2 ** 31);
      expect(plan.pieces).toBeGreaterThan(2 ** 31);
      const top = Math.floor(two.tileRows() / 2);
      await two.render({ camera: WALL_CAMERA, samples: 1, rows: { from: top, to: top + 1 } });
      const band = digest(two.band({ from: top, to: top + 1 }));
      const met = two.pieces().met;
      const seen = seenIn(two);
      await two.load({ ...wall(), leftOut }, large);
      await two.render({ camera: WALL_CAMERA, samples: 1, rows: { from: top, to: top + 1 } });
      expect(digest(two.band({ from: top, to: top + 1 }))).toBe(band);
      expect(seenIn(two)).toEqual(seen);
      // and as a film of its own, which is small
      const region = { left: 0, top: top * ROWS, widthPx: BEYOND.widthPx, heightPx: ROWS };
      await one.load(parts, { ...large, region });
      await one.render({ camera: WALL_CAMERA, samples: 1 });
      expect(digest(one.band({ from: 0, to: 1 }))).toBe(band);
      expect(met).toBeGreaterThan(0);
    },
    120_000,
  );
});
