import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  DEFAULT_TEMPLATE,
  NAME_TOKENS,
  type NameValues,
  PROFILES,
  faultOfTemplate,
  findClashes,
  frameSize,
  groupCells,
  renderName,
  slug,
} from './index.ts';

const values: NameValues = {
  project: 'Harvest fair, tea stall',
  camera: 'Counter, close',
  variant: 'Lanterns · Copper',
  lighting: 'Paper lanterns',
  environment: '',
  materials: 'Copper',
  visibility: '',
  placement: '',
  grade: '',
  profile: 'Sketch',
  version: 3,
  widthPx: 640,
  heightPx: 360,
  at: '2026-11-25T18:42:07.000Z',
};

describe('file names', () => {
  it('come from the template', () => {
    expect(renderName(DEFAULT_TEMPLATE, values)).toBe('harvest-fair-tea-stall/counter-close/lanterns-copper_v003');
    expect(renderName('{date}_{time}/{camera}-{environment}-{width}x{height}', values)).toBe(
      '2026-11-25_18-42-07/counter-close-base-640x360',
    );
  });
  it('never lead out of the folder, whatever things are called', () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), (camera, variant) => {
        const path = renderName(DEFAULT_TEMPLATE, { ...values, camera, variant });
        expect(path.split('/')).toHaveLength(3);
        expect(path).not.toMatch(/\.\.|\\|[\u0000-\u001f]/);
        expect(slug(camera).length).toBeGreaterThan(0);
      }),
    );
  });
  it.each([
    ['', /empty/],
    ['{nonsense}', /no token \{nonsense\}/],
    ['{camera', /not closed/],
    ['../{camera}', /leads out/],
    ['/etc/{camera}', /leads out/],
    ['a//b', /folder/],
    ['{camera}:{variant}', /may not have/],
  ])('the template %j is refused', (template, message) => {
    expect(faultOfTemplate(template)).toMatch(message);
  });
  it('every known token may be used', () => {
    expect(faultOfTemplate(NAME_TOKENS.map((t) => `{${t}}`).join('_'))).toBeUndefined();
  });
  it('that clash are found, also by case, with a template that would not', () => {
    const clashes = findClashes(
      [
        { path: 'a/x', owner: 'one' },
        { path: 'A/X', owner: 'two' },
        { path: 'b', owner: 'three' },
        { path: 'c', owner: 'four' },
      ],
      (p) => p === 'b',
      '{camera}',
    );
    expect(clashes.map((c) => c.owners)).toEqual([['one', 'two'], ['three']]);
    expect(faultOfTemplate(clashes[0]!.suggestion)).toBeUndefined();
    expect(clashes[0]!.suggestion).toContain('{variant}');
  });
});

describe('planning', () => {
  it('cells with one state share a trace; every cell is served once', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ cameraId: fc.uuid(), variantId: fc.uuid(), traceHash: fc.constantFrom('a', 'b', 'c') })),
        (cells) => {
          const groups = groupCells(cells);
          expect(groups.flatMap((g) => g.cells).length).toBe(cells.length);
          expect(new Set(groups.map((g) => g.hash)).size).toBe(groups.length);
          for (const g of groups) for (const c of g.cells) expect(c.traceHash).toBe(g.hash);
        },
      ),
    );
  });
  it('a profile scales the frame and keeps at least a pixel', () => {
    expect(frameSize(PROFILES[0]!, { widthPx: 1920, heightPx: 1080 })).toEqual({ widthPx: 640, heightPx: 360 });
    expect(frameSize(PROFILES[0]!, { widthPx: 1, heightPx: 1 })).toEqual({ widthPx: 1, heightPx: 1 });
  });
});
