// One film, however it comes about: passes of any size, goes, regions, slices in any order on any number of threads,
// all with a noise threshold that ends tiles at different sample numbers.
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Picture, type PlaneName, PLANE_SPECS, type RenderSettings } from '../host/index.ts';
import type { Engine } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { settings } from './fixtures.ts';
import { stall, stallCamera as camera } from './stall.ts';

const SAMPLES = 28; // no multiple of what tiles are judged at
const PLANES: readonly PlaneName[] = [
  'depth',
  'normal',
  'albedo',
  'direct',
  'indirect',
  'objects',
  'materials',
  'motion',
];
const FRAME: RenderSettings = {
  ...settings(90, 101, 3),
  planes: PLANES,
  lightGroups: 2,
  denoise: true,
  noise: { threshold: 0.095, floorNits: 0.05 },
};
let whole: Picture;
let smooth: Float32Array;
const engines: Engine[] = [];
const engine = async (threads: number, s = FRAME): Promise<Engine> => {
  const e = await openNodeEngine(threads);
  engines.push(e);
  await e.load(stall(), s);
  return e;
};
const sameFilm = (a: Picture, b: Picture) => {
  expect(a.samples).toEqual(b.samples);
  expect(a.rgba).toEqual(b.rgba);
  expect(a.planes).toEqual(b.planes);
};
beforeAll(async () => {
  const e = await engine(2);
  await e.render({ camera, samples: SAMPLES });
  whole = e.picture();
  smooth = (await e.denoise()).rgb.slice();
});
afterAll(async () => {
  for (const e of engines) await e.close();
});

describe('a film with a noise threshold', () => {
  it('has tiles that ended at different sample numbers, some with all', () => {
    const counts = new Set(whole.samples);
    expect(counts.size).toBeGreaterThan(2);
    expect(counts.has(SAMPLES)).toBe(true);
  });
  it.each([1, 3, 64])('is the same in passes of %i samples', async (samplesPerPass) => {
    const e = await engine(1);
    await e.render({ camera, samples: SAMPLES, samplesPerPass });
    sameFilm(e.picture(), whole);
  });
  it('is the same in goes of any length', async () => {
    const e = await engine(2);
    for (const [from, to] of [
      [0, 1],
      [1, 17],
      [17, 19],
      [19, 26],
      [26, SAMPLES],
    ] as const)
      await e.render({ camera, samples: to - from, samplesPerPass: 5 }, from);
    sameFilm(e.picture(), whole);
  });
  it.each([
    { left: 0, top: 0, widthPx: 64, heightPx: 32 },
    { left: 40, top: 37, widthPx: 49, heightPx: 41 },
    { left: 89, top: 100, widthPx: 1, heightPx: 1 },
    { left: 63, top: 31, widthPx: 2, heightPx: 2 },
  ])('is the same in the region $left, $top, $widthPx × $heightPx', async (region) => {
    const e = await engine(2, { ...FRAME, region });
    await e.render({ camera, samples: SAMPLES });
    const part = e.picture();
    const cut = (from: Float32Array, floats: number, layers = 1) => {
      const out: number[] = [];
      for (let layer = 0; layer < layers; layer++)
        for (let y = 0; y < region.heightPx; y++) {
          const at = ((layer * FRAME.heightPx + y + region.top) * FRAME.widthPx + region.left) * floats;
          out.push(...from.subarray(at, at + region.widthPx * floats));
        }
      return new Float32Array(out);
    };
    expect(part.rgba).toEqual(cut(whole.rgba, 4));
    expect(e.film()).toEqual(part.rgba);
    expect(part.samples).toEqual(cut(whole.samples, 1));
    for (const name of [...PLANES, 'moment', 'guideNormal'] as const)
      expect(part.planes[name], name).toEqual(cut(whole.planes[name]!, PLANE_SPECS[name][1]));
    expect(part.planes.groups).toEqual(cut(whole.planes.groups!, 3, 2));
    expect((await e.denoise()).rgb.length).toBe(region.widthPx * region.heightPx * 3);
    expect(e.takePicture().planes).toEqual(part.planes);
  });
});

describe('slices', () => {
  it('of any cut, in any order, from any number of threads and goes, are the whole film to the bit', async () => {
    const merging = await engine(1);
    const rows = merging.tileRows();
    expect(rows).toBe(4);
    const makers = [await engine(1), await engine(2)];
    const cuts = fc.uniqueArray(fc.integer({ min: 1, max: rows - 1 }), { maxLength: rows - 1 });
    await fc.assert(
      fc.asyncProperty(cuts, fc.array(fc.nat()), fc.integer({ min: 0, max: SAMPLES - 1 }), async (at, order, first) => {
        const edges = [0, ...at.sort((a, b) => a - b), rows];
        const bands = edges.slice(1).map((to, i) => ({ from: edges[i]!, to, by: order[i] ?? i }));
        merging.clearFilm();
        for (const e of makers) e.clearFilm();
        // one maker looks at the whole frame first, as a node does
        if (first) await makers[1]!.render({ camera, samples: first });
        for (const band of bands.sort((a, b) => a.by - b.by)) {
          const isLooked = band.by % 2 === 1;
          const done = isLooked ? first : 0;
          const maker = makers[isLooked ? 1 : 0]!;
          await maker.render({ camera, samples: SAMPLES - done, rows: band, samplesPerPass: 64 }, done);
          merging.putBand(band, maker.band(band));
        }
        sameFilm(merging.picture(), whole);
        expect((await merging.denoise()).rgb).toEqual(smooth);
      }),
      { numRuns: 3 },
    );
  });
  it('touch nothing but their rows', async () => {
    const e = await engine(2);
    await e.render({ camera, samples: 4, rows: { from: 2, to: 3 } });
    const { samples } = e.picture();
    const counts = (y: number) => samples[y * FRAME.widthPx];
    expect([0, 63, 64, 95, 96, 100].map(counts)).toEqual([0, 0, 4, 4, 0, 0]);
  });
  it('are refused for rows that are not there and films of another job', async () => {
    const e = await engine(1);
    expect(() => e.band({ from: 3, to: 5 })).toThrow('Rows of tiles 3 to 5 are not in this film, which has 4');
    expect(() => e.band({ from: 2, to: 2 })).toThrow('are not in this film');
    expect(() => e.putBand({ from: 0, to: 1 }, new Uint8Array(12))).toThrow('The slice is of another job');
    await expect(e.render({ camera, samples: 1, rows: { from: -1, to: 2 } })).rejects.toThrow('are not in this film');
  });
});
