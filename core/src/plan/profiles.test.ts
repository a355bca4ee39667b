import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  AOVS,
  type Profile,
  type ProfileException,
  PROFILES,
  exceptionsOf,
  faultOfPath,
  filesOfCell,
  pathOfFile,
  frameSize,
  profileDifferences,
  profileFor,
} from './index.ts';

const SKETCH = PROFILES[0]!;
const files = (part: Partial<Profile['files']>) => ({ ...SKETCH, files: { ...SKETCH.files, ...part } });
const kinds = (p: Profile, first = true) => filesOfCell(p, first).map((f) => f.kind);

describe('the size of a frame', () => {
  it('is a share of the camera’s, or a width in its proportions', () => {
    expect(frameSize({ sizeFactor: 0.5, widthPx: null }, { widthPx: 1921, heightPx: 1080 })).toEqual({
      widthPx: 961,
      heightPx: 540,
    });
    expect(frameSize({ sizeFactor: 0.5, widthPx: 800 }, { widthPx: 1500, heightPx: 1500 })).toEqual({
      widthPx: 800,
      heightPx: 800,
    });
    expect(frameSize({ sizeFactor: 0.01, widthPx: null }, { widthPx: 3, heightPx: 3 })).toEqual({
      widthPx: 1,
      heightPx: 1,
    });
  });
});

describe('the files of a cell', () => {
  it('are those of the profile; the first of a trace has what is the same for all', () => {
    expect(kinds(SKETCH)).toEqual(['exr', 'png', 'thumbnail']);
    expect(kinds(SKETCH, false)).toEqual(['png', 'thumbnail']);
    const apart = {
      ...files({ exr: { ...SKETCH.files.exr!, aovsApart: true, perCell: true } }),
      aovs: ['depth', 'noise'],
    } as const;
    expect(kinds(apart, false)).toEqual(['exr', 'exr-depth', 'exr-noise', 'png', 'thumbnail']);
    expect(kinds(files({ exr: null, png: null, webp: 80 }))).toEqual(['webp', 'thumbnail']);
  });
  it('have extensions of their own, whatever is asked for', () => {
    const all = {
      ...files({ tiff: 'float', jpeg: 1, webp: 1, exr: { ...SKETCH.files.exr!, aovsApart: true } }),
      aovs: AOVS,
    };
    for (const path of ['front', '{aov}/front', '{aov}', 'a/{aov}_{aov}']) {
      const paths = filesOfCell(all, true).map((file) => pathOfFile(path, file));
      expect(new Set(paths).size).toBe(paths.length);
      expect(paths.join()).not.toMatch(/[{}]/);
      // what is found to be short enough is so with every file's extension
      const name = path.split('/').at(-1)!;
      const short = 'a'.repeat(255 - 20 - name.replaceAll('{aov}', 'geometricNormal').length) + name;
      expect(faultOfPath(short)).toBeUndefined();
      for (const file of filesOfCell(all, true)) expect(pathOfFile(short, file).length).toBeLessThanOrEqual(255);
    }
  });
});

describe('exceptions', () => {
  const at = (
    cameraId: string,
    variantId: string | null,
    profileId: string | null,
    samples: number,
  ): ProfileException => ({
    cameraId,
    variantId,
    profileId,
    settings: { samples },
  });
  const cell = { cameraId: 'a', variantId: 'x' };
  it('the more particular wins, whatever order they were made in', () => {
    const all = [at('a', null, null, 1), at('a', null, 'sketch', 2), at('a', 'x', null, 3), at('a', 'x', 'sketch', 4)];
    fc.assert(
      fc.property(fc.shuffledSubarray(all, { minLength: 1 }), (some) => {
        const most = Math.max(...some.map((e) => e.settings.samples!));
        expect(profileFor(SKETCH, some, cell).samples).toBe(most);
      }),
    );
  });
  it('of other cells, cameras and profiles change nothing', () => {
    const others = [at('b', null, null, 1), at('a', 'y', null, 2), at('a', 'x', 'proof', 3)];
    expect(exceptionsOf(others, 'sketch', cell)).toEqual([]);
    expect(profileFor(SKETCH, others, cell)).toEqual(SKETCH);
  });
});

describe('differences of profiles', () => {
  it('are what a picture shows: not the name, not the order of keys, not who shares a file', () => {
    const { files: f, ...rest } = SKETCH;
    const reordered = {
      ...rest,
      files: Object.fromEntries(Object.entries(f).reverse()),
      name: 'Other',
    } as unknown as Profile;
    expect(profileDifferences(SKETCH, reordered)).toEqual([]);
    expect(profileDifferences(SKETCH, files({ exr: { ...f.exr!, perCell: true } }))).toEqual([]);
    expect(profileDifferences(SKETCH, { ...SKETCH, samples: 16, noise: 0.02 })).toEqual([
      { what: 'samples', was: '12', is: '16' },
      { what: 'noise', was: 'none', is: '0.02' },
    ]);
    expect(profileDifferences(SKETCH, files({ png: 16 }))[0]).toMatchObject({
      what: 'files',
      is: expect.stringContaining('png 16'),
    });
  });
});
