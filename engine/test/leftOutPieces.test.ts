// Pieces of meshes that are left out: the picture is as if their triangles did not exist, what that has cost is at most
// what is said, and what is known beforehand of each piece is what rays met of it.
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import {
  type Engine,
  type EngineScene,
  type Picture,
  type PieceEvidence,
  type RenderSettings,
  type SceneMesh,
  isStored,
  leftOutReport,
  meanNits,
} from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { cutTo, finer, inPieces } from './inPieces.ts';
import { FRAME, GLOW, camera, sceneOf } from './randomScenes.ts';
import { numbers } from './soup.ts';

let one: Engine;
let two: Engine;
let builder: Engine;
beforeAll(async () => {
  [one, two, builder] = [await openNodeEngine(1), await openNodeEngine(2), await openNodeEngine(1)];
});
afterAll(async () => {
  await Promise.all([one, two, builder].map((e) => e.close()));
});

const { noise: _, ...STEADY } = FRAME;
const RUNS = 4;
const ASKED: RenderSettings = { ...STEADY, planes: [...FRAME.planes!, 'leftOut'] };
const fineScene = (seed: number): EngineScene => {
  const { what } = sceneOf(seed);
  return { ...what, meshes: what.meshes.map((m) => finer(finer(m))) };
};
/** Which pieces go, by chance. */
function goes(seed: number, share: number): (i: number, piece: number) => boolean {
  return (i, piece) => numbers(seed + i * 7919 + piece * 104_729)() < share;
}
function without(
  parts: EngineScene<SceneMesh>,
  isGone: (i: number, piece: number) => boolean,
  nits: (i: number) => number | undefined = () => undefined,
): EngineScene<SceneMesh> {
  const meshes = parts.meshes.map((m, i) =>
    isStored(m)
      ? { ...m, leftOut: { isLeftOut: (piece: number) => isGone(i, piece), name: `${m.name} ${i}`, nits: nits(i) } }
      : m,
  );
  return { ...parts, meshes };
}
async function take(e: Engine, what: EngineScene<SceneMesh>, s: RenderSettings, samples = 9): Promise<Picture> {
  await e.load(what, s);
  await e.render({ camera, samples, samplesPerPass: 4 });
  return e.picture();
}

it('the picture is as if their triangles did not exist, loaded in any way, and so is what is said of it', async () => {
  let doubted = 0;
  let share = 0;
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), async (seed) => {
      const what = fineScene(seed);
      const isGone = goes(seed, 0.3);
      const parts = await inPieces(builder, what);
      const lean = without(parts, isGone, (i) => (i % 3 ? i : undefined));
      const asked = await take(two, lean, ASKED);
      const { cut, triangles, left } = await cutTo(builder, what, (i, piece) => !isGone(i, piece));
      share += left / triangles / RUNS;
      const plain = await take(one, cut, STEADY);
      const { leftOut, ...others } = asked.planes;
      expect(asked.rgba).toEqual(plain.rgba);
      expect(others).toEqual(plain.planes);
      expect((await take(one, lean, STEADY)).rgba).toEqual(plain.rgba);
      const plan = await two.load(lean, ASKED);
      const small = plan.totalBytes - Math.floor(plan.piecesBytes * 0.2);
      for (const [e, more, budget] of [
        [one, { wavePaths: 777 }, Infinity],
        [two, { wavePaths: 999 }, small],
      ] as const) {
        await e.load(lean, { ...ASKED, ...more }, budget);
        await e.render({ camera, samples: 9, samplesPerPass: 2 });
        expect(e.picture()).toEqual(asked);
      }
      doubted += leftOut!.some((x) => x > 0) ? 1 : 0;
    }),
    { numRuns: RUNS },
  );
  expect(doubted).toBeGreaterThan(2);
  expect(share).toBeGreaterThan(0.5);
  expect(share).toBeLessThan(0.9);
}, 180_000);

it('they cost no more than is said, in 15 random scenes of all kinds, and take no memory', async () => {
  let told = 0;
  let worst = 0;
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), async (seed) => {
      const what = fineScene(seed);
      const parts = await inPieces(builder, what);
      const isGone = goes(seed + 1, 0.2);
      const probed = await take(two, parts, { ...STEADY, seed: 99, evidence: { finer: 1 } }, 16);
      const evidence = two.pieceEvidence();
      const mean = meanNits(probed);
      const nits = (i: number): number =>
        Math.max(mean, ...(evidence[i] ?? []).filter((_, piece) => isGone(i, piece)).map(brightness));
      const full = await take(two, parts, ASKED, 64);
      const whole = await two.load(parts, ASKED);
      const lean = await take(two, without(parts, isGone, nits), ASKED, 64);
      const little = await two.load(without(parts, isGone, nits), ASKED);
      expect(little.piecesBytes).toBeLessThanOrEqual(whole.piecesBytes);
      const said = leftOutReport(lean, two.leftOut());
      if (!said) return;
      const differs = Math.abs(meanNits(full) - meanNits(lean)) / meanNits(lean);
      expect(differs).toBeLessThanOrEqual(said.atMostShare + 1e-6);
      if (said.atMostShare > 0) told++;
      worst = Math.max(worst, said.atMostShare ? differs / said.atMostShare : 0);
    }),
    { numRuns: 15 },
  );
  expect(told).toBeGreaterThan(10);
  expect(worst).toBeGreaterThan(0.03);
}, 180_000);
const met = ({ times: { seen, reflected, refracted, bounced } }: PieceEvidence): number =>
  seen + reflected + refracted + bounced;
const brightness = (e: PieceEvidence): number => (met(e) ? e.brought / met(e) : 0);

it('evidence of pieces adds up to that of their objects, and is none of what no ray reached', async () => {
  let pieces = 0;
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), async (seed) => {
      const what = fineScene(seed);
      const parts = await inPieces(builder, what);
      await take(two, parts, { ...STEADY, evidence: { finer: 1 } }, 16);
      const objects = two.evidence();
      const reached = two.metPieces();
      two.pieceEvidence().forEach((all, i) => {
        if (!all) {
          expect(what.instances[i]!.material).toBe(GLOW);
          return;
        }
        const sum = (of: (e: PieceEvidence) => number) => all.reduce((n, e) => n + of(e), 0);
        const object = objects[i]!;
        for (const kind of ['seen', 'reflected', 'refracted', 'bounced'] as const)
          expect(sum((e) => e.times[kind])).toBe(object.times[kind]);
        expect(sum((e) => e.brought)).toBeCloseTo(object.brought, -Math.log10(Math.max(1e-6, object.brought)) + 3);
        expect(sum((e) => e.times.shadowed)).toBeLessThanOrEqual(object.times.shadowed); // panes weaken light, too
        all.forEach((e, piece) => {
          if (met(e) + e.times.shadowed > 0) expect(reached[i]![piece]!.isMet).toBe(true);
          pieces += met(e) ? 1 : 0;
        });
      });
    }),
    { numRuns: 10 },
  );
  expect(pieces).toBeGreaterThan(100);
}, 60_000);
