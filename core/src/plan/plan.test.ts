import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  DEFAULT_TEMPLATE,
  NAME_TOKENS,
  type NameValues,
  PROFILES,
  faultOfPath,
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
  frame: 12,
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
  const file = (owner: string, more: Partial<NameValues>, template: string) => {
    const own = { ...values, ...more };
    return { path: renderName(template, own), owner, values: own };
  };
  it('that clash are found, also by case, and those that are there', () => {
    const at = (path: string, owner: string) => ({ path, owner, values });
    const files = [at('a/x', 'one'), at('A/X', 'two'), at('b', 'three'), at('c', 'four')];
    const clashes = findClashes(files, (p) => p === 'b', '{camera}');
    expect(clashes.map((c) => c.owners)).toEqual([['one', 'two'], ['three']]);
  });
  it('that clash get advice which helps: under the template that is named they differ', () => {
    const name = fc.constantFrom('Front', 'front!', 'Side', 'Paper', 'Copper', 'Stall');
    const template = fc.constantFrom('{camera}', '{variant}', '{project}/{camera}', DEFAULT_TEMPLATE, 'pictures');
    fc.assert(
      fc.property(fc.array(fc.tuple(name, name, name), { minLength: 2, maxLength: 6 }), template, (cells, own) => {
        const files = cells.map(([camera, variant, lighting], i) =>
          file(`cell ${i}`, { camera, variant, lighting, version: i % 2 }, own),
        );
        for (const clash of findClashes(files, () => false, own)) {
          const advised = /the template (\S+)$/.exec(clash.remedy)?.[1];
          if (advised === undefined) {
            expect(clash.remedy).toMatch(/Rename one of them/);
            continue;
          }
          expect(advised).not.toBe(own);
          expect(faultOfTemplate(advised)).toBeUndefined();
          const theirs = files.filter((f) => clash.owners.includes(f.owner));
          expect(new Set(theirs.map((f) => renderName(advised, f.values))).size).toBe(theirs.length);
        }
      }),
    );
  });
  it('that no token tells apart are to be renamed', () => {
    const files = [
      file('“Front”', { camera: 'Front' }, DEFAULT_TEMPLATE),
      file('“front!”', { camera: 'front!' }, DEFAULT_TEMPLATE),
    ];
    expect(findClashes(files, () => false, DEFAULT_TEMPLATE)[0]!.remedy).toMatch(
      /^No token tells them apart: as file names “Front” and “front!” are the same/,
    );
  });
  it.each(['nul/{camera}', 'a/CON.txt', '.unfinished/{camera}', '.hidden', 'a./{camera}', 'lpt1'])(
    'the template %j is refused, since it cannot be written everywhere',
    (template) => {
      expect(faultOfTemplate(template)).toMatch(/some systems|begins with a dot/);
    },
  );
  it('as paths are refused where a disk would not take them, with what helps', () => {
    expect(faultOfPath('stall/front_v001')).toBeUndefined();
    expect(faultOfPath(`stall/${'a'.repeat(235)}`)).toBeUndefined();
    expect(faultOfPath(`stall/${'a'.repeat(236)}`)).toMatch(/256 bytes, and disks take 255\. Give shorter names/);
    expect(faultOfPath(`${'茶'.repeat(86)}/front`)).toMatch(/258 bytes/);
    expect(faultOfPath('aux/front_v001')).toMatch(/keep for devices/);
    expect(faultOfPath(Array.from({ length: 200 }, () => 'folder').join('/'))).toMatch(/path of \d+ bytes/);
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
