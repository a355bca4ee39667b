// What is left out: the picture is as if it did not exist, and what that has cost is at most what is said.
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  type Engine,
  type EngineInstance,
  type EngineMesh,
  type EngineScene,
  type LeftOut,
  MASK,
  type Picture,
  type RenderSettings,
  type SceneMesh,
  type Vec3,
  brightnessOf,
  doubtOf,
  leftOutReport,
  meanNits,
  readStoredHead,
} from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { constantSky, downCamera, floor, matte, scene, settings, sphere, translated } from './fixtures.ts';
import { FRAME, GLOW, camera, sceneOf } from './randomScenes.ts';
import { numbers } from './soup.ts';

let one: Engine;
let two: Engine;
beforeAll(async () => {
  [one, two] = [await openNodeEngine(1, true), await openNodeEngine(2)];
});
afterAll(async () => {
  await one.close();
  await two.close();
});

const ASKED: RenderSettings = { ...FRAME, planes: [...FRAME.planes!, 'leftOut'] };

function boxOf(m: EngineMesh): { readonly min: Vec3; readonly max: Vec3 } {
  const along = (k: number) => m.positions.filter((_, i) => i % 3 === k);
  const ends = (pick: (...x: number[]) => number) => [0, 1, 2].map((k) => pick(...along(k))) as unknown as Vec3;
  return { min: ends(Math.min), max: ends(Math.max) };
}
/** The scene without some of its instances, which are left out. */
function without(what: EngineScene, gone: ReadonlySet<number>, nits: (i: number) => number | undefined): EngineScene {
  const leftOut = [...gone].map((i): LeftOut => {
    const { name, mesh, matrix, mask } = what.instances[i]!;
    return { name: `${name} ${i}`, ...boxOf(what.meshes[mesh]!), matrix, mask, nits: nits(i) };
  });
  return { ...what, instances: what.instances.filter((_, i) => !gone.has(i)), leftOut };
}
async function take(e: Engine, what: EngineScene<SceneMesh>, s: RenderSettings, samples = 9): Promise<Picture> {
  await e.load(what, s);
  await e.render({ camera, samples, samplesPerPass: 4 });
  return e.picture();
}
/** Any of what does not give light. */
function chosen({ instances }: EngineScene, seed: number): Set<number> {
  const random = numbers(seed);
  return new Set(instances.flatMap((o, i) => (o.material !== GLOW && random() < 0.4 ? [i] : [])));
}

describe('what is left out', () => {
  it('is as if it did not exist, and what it cost is the same on any threads, in any waves, loaded in any way', async () => {
    let doubted = 0;
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), async (seed) => {
        const { what } = sceneOf(seed);
        const gone = chosen(what, seed);
        const lean = without(what, gone, (i) => (i % 3 ? i : undefined));
        const { leftOut: _, ...kept } = lean;
        const plain = await take(two, kept, FRAME);
        const asked = await take(two, lean, ASKED);
        expect(asked.rgba).toEqual(plain.rgba);
        const { leftOut, ...others } = asked.planes;
        expect(others).toEqual(plain.planes);
        const stored = await storedParts(lean);
        const parts = await two.load(stored, ASKED);
        const small = parts.totalBytes - Math.floor(parts.piecesBytes * 0.2);
        for (const [e, scene, more, budget] of [
          [one, lean, {}, Infinity],
          [two, lean, { wavePaths: 777 }, Infinity],
          [two, stored, {}, Infinity],
          [two, stored, { wavePaths: 999 }, small],
        ] as const) {
          await e.load(scene, { ...ASKED, ...more }, budget);
          await e.render({ camera, samples: 9, samplesPerPass: 2 });
          expect(e.picture().planes.leftOut).toEqual(leftOut);
        }
        doubted += leftOut!.some((x) => x > 0) ? 1 : 0;
      }),
      { numRuns: 6 },
    );
    expect(doubted).toBeGreaterThan(3);
  }, 120_000);

  it('costs no more than is said, in 50 random scenes of all kinds', async () => {
    let told = 0;
    let worst = 0;
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), async (seed) => {
        const { what } = sceneOf(seed);
        const gone = chosen(what, seed + 1);
        if (!gone.size) return;
        // what is known beforehand comes of other seeds than the picture
        const { noise: _, ...steady } = ASKED;
        const probed = await take(two, what, { ...steady, seed: 99, evidence: { finer: 1 } }, 16);
        const evidence = two.evidence();
        const full = await take(two, what, steady, 64);
        const lean = await take(
          two,
          without(what, gone, (i) => brightnessOf(evidence[i]!, meanNits(probed))),
          steady,
          64,
        );
        const said = leftOutReport(lean, two.leftOut())!;
        const differs = Math.abs(meanNits(full) - meanNits(lean)) / meanNits(lean);
        expect(differs).toBeLessThanOrEqual(said.atMostShare + 1e-6);
        if (said.atMostShare > 0) told++;
        worst = Math.max(worst, said.atMostShare ? differs / said.atMostShare : 0);
      }),
      { numRuns: 50 },
    );
    expect(told).toBeGreaterThan(30);
    expect(worst).toBeGreaterThan(0.05); // what is said is not merely everything
  }, 180_000);
});

/** Its meshes kept elsewhere, but for those that give light. */
async function storedParts(what: EngineScene): Promise<EngineScene<SceneMesh>> {
  const made = await Promise.all(what.meshes.map((m) => two.store(m)));
  const meshes: SceneMesh[] = [...what.meshes];
  const instances = what.instances.map((o): EngineInstance => {
    if (o.material === GLOW) return o;
    const all = made[o.mesh]!;
    const read = (from: number, bytes: number) => Promise.resolve(all.slice(from, from + bytes));
    return { ...o, mesh: meshes.push({ name: o.name, head: readStoredHead(all), read }) - 1 };
  });
  return { ...what, meshes, instances };
}

const plain: RenderSettings = { ...settings(64, 64, 3), planes: ['leftOut'] };
const above = downCamera(4, 2);
const ball = (name: string, at: Vec3, nits?: number, mask: number = MASK.ALL): LeftOut => ({
  name,
  ...boxOf(sphere(8, 0.5)),
  matrix: translated(...at),
  mask,
  nits,
});
/** A floor under an even sky. */
const field = (leftOut: readonly LeftOut[], more: Partial<EngineScene> = {}): EngineScene => ({
  ...scene({
    meshes: [floor(20)],
    materials: [{ ...matte, baseColor: [0.5, 0.5, 0.5, 1] }],
    instances: [{ name: 'floor', mesh: 0, material: 0, matrix: translated(0, -1, 0), mask: MASK.ALL }],
    environment: constantSky(10),
    ...more,
  }),
  leftOut,
});
async function shot(what: EngineScene, s = plain, samples = 64) {
  await two.load(what, s);
  await two.render({ camera: { ...above, lensRadiusM: 0 }, samples });
  const picture = two.picture();
  return { picture, doubt: doubtOf(picture)!, said: leftOutReport(picture, two.leftOut())! };
}
const at = (x: number, y: number) => y * 64 + x;

describe('what is said of it', () => {
  it('is a share of the light that is right where it can be computed', async () => {
    // a cube of a metre over the middle of a field that is lit from everywhere: all light of the pixels over it is in
    // doubt
    const { picture, doubt, said } = await shot(field([ball('Fair/Ball', [0, 0, 0])]));
    const mean = meanNits(picture);
    expect(picture.rgba[at(32, 32) * 4]).toBeCloseTo(5, 1);
    // came through and could be as bright as the mean; of what goes on, half the light, about half passes it again
    expect(doubt.nits[at(32, 32)]! / mean).toBeGreaterThan(2);
    expect(doubt.nits[at(32, 32)]! / mean).toBeLessThan(2.5);
    expect(doubt.object[at(32, 32)]).toBe(0);
    // beside it the share of the sky that a cube hides, far less than a quarter of it
    const beside = doubt.nits[at(32, 12)]! / mean;
    expect(beside).toBeGreaterThan(0.005);
    expect(beside).toBeLessThan(0.25);
    expect(said.atMostShare).toBeCloseTo(doubt.nits.reduce((a, b) => a + b, 0) / (mean * 64 * 64), 6);
    expect(said.most).toEqual([{ object: 'Fair/Ball', share: 1 }]);
    expect(said.doubtedPixels).toBeGreaterThan(64 * 64 * 0.05);
  });

  it('is nothing where no ray comes near, and less the farther away it stands', async () => {
    const far = await shot(field([ball('below', [0, -5, 0]), ball('behind', [40, -9, 0])]));
    expect(far.said).toMatchObject({ atMostShare: 0, doubtedPixels: 0, most: [] });
    const near = await shot(field([ball('near', [3, 0, 0])]));
    const farther = await shot(field([ball('farther', [9, 0, 0])]));
    expect(farther.said.atMostShare).toBeGreaterThan(0);
    expect(near.said.atMostShare).toBeGreaterThan(farther.said.atMostShare * 3);
  });

  it('names what most of it came by, pixel by pixel', async () => {
    const { doubt, said } = await shot(field([ball('left', [-1, 0, 0], 5), ball('right', [1, 0, 0], 150)]));
    expect(doubt.object[at(16, 32)]).toBe(0);
    expect(doubt.object[at(48, 32)]).toBe(1);
    expect(said.most.map((m) => m.object)).toEqual(['right', 'left']);
    expect(said.most[0]!.share + said.most[1]!.share).toBeCloseTo(1, 6);
  });

  it('counts what shadows alone would change, and not what the camera may not see', async () => {
    const sun = {
      type: 'sun',
      direction: [0, -1, 0],
      illuminanceLux: [100, 100, 100],
      angularDiameterRad: 0,
    } as const;
    const shadowing = ball('parasol', [0, 0, 0], 1, MASK.SHADOW);
    const { picture, doubt } = await shot(field([shadowing], { environment: undefined, lights: [sun] }));
    // all the sun's light under it, and nothing beside
    expect(doubt.nits[at(32, 32)]).toBeCloseTo(picture.rgba[at(32, 32) * 4]!, 2);
    expect(doubt.nits[at(5, 5)]).toBe(0);
    const unshadowing = ball('cloud', [0, 0, 0], undefined, MASK.CAMERA);
    const seen = await shot(field([unshadowing], { environment: undefined, lights: [sun] }));
    const mean = meanNits(seen.picture);
    expect(seen.doubt.nits[at(32, 32)]! / mean).toBeCloseTo(2, 1);
  });

  it('is of what stands in front, not behind what was met', async () => {
    const roof: EngineInstance = { name: 'roof', mesh: 0, material: 0, matrix: translated(0, 1, 0), mask: MASK.ALL };
    const hidden = field([ball('under the roof', [0, 0, 0])], {
      instances: [roof],
      environment: undefined,
      lights: [{ type: 'sun', direction: [0, -1, 0], illuminanceLux: [100, 100, 100], angularDiameterRad: 0 }],
    });
    const { said } = await shot(hidden);
    expect(said.atMostShare).toBe(0);
  });

  it('takes memory as planned, and none of what it stands for', async () => {
    const objects = Array.from({ length: 500 }, (_, i) => ball(`ball ${i}`, [i, 0, 0]));
    const { leftOut: _, ...empty } = field([]);
    const before = (await two.load(empty, plain)).bytes.acceleration;
    const after = (await two.load(field(objects), plain)).bytes.acceleration;
    expect((after - before) / 500).toBeLessThan(450);
  });
});

describe('evidence', () => {
  it('says how bright an object is where it was met', async () => {
    // a white floor under an even sky is as bright as the sky; one of half the albedo half as bright
    const what = field([]);
    await two.load(what, { ...settings(32, 32, 6), evidence: { finer: 1 } });
    await two.render({ camera: above, samples: 64 });
    const [e] = two.evidence();
    const picture = two.picture();
    expect(meanNits(picture)).toBeCloseTo(5, 1);
    expect(e!.brought / e!.seen).toBeCloseTo(5, 1);
    expect(brightnessOf(e!, meanNits(picture))).toBeCloseTo(5, 1);
    expect(brightnessOf(e!, 1)).toBeCloseTo(5, 1);
    expect(brightnessOf(e!, 7)).toBeCloseTo(7, 5);
  });
});
