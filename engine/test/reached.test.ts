// What the engine says that rays may have met: of all else nothing shows, whatever it is made of, or whether it is
// there.
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { type Engine, type EngineScene, MASK, type SceneMesh } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { downCamera, floor, matte, scene, settings, translated } from './fixtures.ts';
import { cutTo, finer, inPieces } from './inPieces.ts';
import { FRAME, GLOW, camera, sceneOf } from './randomScenes.ts';

let one: Engine;
let two: Engine;
let builder: Engine;
beforeAll(async () => {
  [one, two, builder] = [await openNodeEngine(1, true), await openNodeEngine(2), await openNodeEngine(1)];
});
afterAll(async () => {
  await Promise.all([one, two, builder].map((e) => e.close()));
});
async function take(e: Engine, what: EngineScene<SceneMesh>) {
  await e.load(what, FRAME);
  await e.render({ camera, samples: 11, samplesPerPass: 4 });
  return { picture: e.picture(), reached: e.reached() };
}
it('what no ray may have met may be gone, or look otherwise: the picture is the same to the bit', async () => {
  let [unmet, ofPieces] = [0, 0];
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 0, max: 8 }), async (seed, other) => {
      const { what } = sceneOf(seed);
      const parts = await inPieces(builder, what);
      for (const [e, given] of [
        [one, what],
        [two, parts],
      ] as const) {
        const { picture, reached } = await take(e, given);
        const isFree = what.instances.map((o, i) => !reached[i] && o.material !== GLOW);
        unmet += isFree.filter(Boolean).length;
        if (given === parts) ofPieces += isFree.filter(Boolean).length;
        const gone = { ...what, instances: what.instances.filter((_, i) => !isFree[i]) };
        expect((await take(two, gone)).picture).toEqual(picture);
        const material = other === GLOW ? 0 : other;
        const dressed = { ...what, instances: what.instances.map((o, i) => (isFree[i] ? { ...o, material } : o)) };
        const { picture: now } = await take(builder, dressed);
        expect(now.rgba).toEqual(picture.rgba);
        expect(now.planes).toEqual(picture.planes);
      }
    }),
    { numRuns: 12 },
  );
  expect(unmet).toBeGreaterThan(20);
  expect(ofPieces).toBeGreaterThan(10);
}, 120_000);

it('pieces that no ray reached may be gone from their meshes: the picture is the same to the bit', async () => {
  let gone = 0;
  let all = 0;
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), async (seed) => {
      const given = sceneOf(seed).what;
      const what = { ...given, meshes: given.meshes.map((m) => finer(finer(m))) };
      const parts = await inPieces(builder, what);
      const { picture } = await take(two, parts);
      const met = two.metPieces();
      const { cut, triangles, left } = await cutTo(builder, what, (i, piece) => met[i]?.[piece]?.isMet ?? true);
      all += triangles;
      gone += triangles - left;
      expect((await take(one, cut)).picture).toEqual(picture);
    }),
    { numRuns: 8 },
  );
  expect(gone).toBeGreaterThan(all / 20);
}, 120_000);

it('is said of all that light meets on its way, and anew for a film that begins anew', async () => {
  const what = scene({
    meshes: [floor(1)],
    materials: [matte],
    instances: [
      { name: 'seen', mesh: 0, material: 0, matrix: translated(0, 0, 0), mask: MASK.ALL },
      { name: 'in the lamp’s way', mesh: 0, material: 0, matrix: translated(9, 2, 0), mask: MASK.ALL },
      { name: 'below', mesh: 0, material: 0, matrix: translated(0, -2, 0), mask: MASK.ALL },
    ],
    lights: [{ type: 'point', position: [18, 4, 0], intensityCd: [50, 50, 50], radiusM: 0 }],
  });
  await two.load(what, settings(32, 32, 1));
  expect(two.reached()).toEqual([false, false, false]);
  await two.render({ camera: downCamera(3, 1), samples: 2 });
  expect(two.reached()).toEqual([true, true, false]);
  two.clearFilm();
  expect(two.reached()).toEqual([false, false, false]);
  await two.render({ camera: downCamera(3, 1), samples: 1 });
  expect(two.reached()).toEqual([true, true, false]);
});
