import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareChanges } from './compare.ts';
import { FACETS } from './facets.ts';
import { SceneIndex } from './properties.ts';
import { DEFAULT_VARIANT_TEMPLATE, combinations, faultOfVariantTemplate, variantName } from './variantNames.ts';

const LANTERNS = { facet: 'lighting', name: 'Lanterns' } as const;
const CELADON = { facet: 'materials', name: 'Celadon' } as const;
const WARM = { facet: 'grade', name: 'Warm' } as const;

describe('names of variants', () => {
  it.each([
    ['{options}', [CELADON, LANTERNS], 'Lanterns · Celadon'],
    ['{options}', [], 'Base'],
    ['{materials} under {lighting}', [LANTERNS, CELADON], 'Celadon under Lanterns'],
    ['{materials} under {lighting}', [CELADON], 'Celadon'],
    ['{materials} under {lighting}', [LANTERNS], 'Lanterns'],
    ['Fair, {lighting}, {grade}', [WARM], 'Fair, Warm'],
    ['{lighting} ({grade})', [LANTERNS, WARM], 'Lanterns (Warm)'],
    ['{lighting}', [LANTERNS, { facet: 'lighting', name: 'Rim' }], 'Lanterns + Rim'],
  ] as const)('%s of %j is %s', (template, options, name) => {
    expect(variantName(template, options)).toBe(name);
  });
  it.each([
    ['', /needs a token/],
    ['Fair', /needs a token/],
    ['{season}', /no token \{season\}/],
    ['{lighting', /not closed/],
    [`{options}${'x'.repeat(300)}`, /longer than 300/],
  ])('refuses the template “%s”', (template, why) => {
    expect(faultOfVariantTemplate(template)).toMatch(why);
  });
  it('are never empty and never too long', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            facet: fc.constantFrom(...FACETS),
            name: fc
              .string({ minLength: 1, maxLength: 120 })
              .filter((s) => s.trim() !== '')
              .map((s) => s.trim()),
          }),
          { maxLength: 8 },
        ),
        (options) => {
          const name = variantName(DEFAULT_VARIANT_TEMPLATE, options);
          expect(name.length).toBeGreaterThan(0);
          expect(name.length).toBeLessThanOrEqual(120);
        },
      ),
    );
  });
});

describe('combinations', () => {
  it('are all there, each once, and a base adds nothing', () => {
    expect(combinations({ lighting: ['day', 'night'], materials: [null, 'red'] })).toEqual([
      ['day'],
      ['day', 'red'],
      ['night'],
      ['night', 'red'],
    ]);
    expect(combinations({})).toEqual([[]]);
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.constantFrom(...FACETS), { maxLength: 4 }),
        fc.integer({ min: 1, max: 4 }),
        (facets, each) => {
          const all = combinations(
            Object.fromEntries(facets.map((f) => [f, Array.from({ length: each }, (_, i) => `${f}${i}`)])),
          );
          expect(new Set(all.map((c) => c.join())).size).toBe(each ** facets.length);
          expect(all.every((c) => c.length === facets.length)).toBe(true);
        },
      ),
    );
  });
});

describe('two options compared', () => {
  it('say each value that either sets, what the other leaves, and which are the same', () => {
    const scene = new SceneIndex({
      version: 1,
      meshes: [],
      textures: [],
      cameras: [],
      materials: [],
      nodes: [{ path: 'Lamp', name: 'Lamp', parent: -1, matrix: [], light: 0 }],
      lights: [{ type: 'point', color: [1, 1, 1], intensity: 20, radiusM: 0.1 }],
    });
    const rows = compareChanges(
      scene,
      [
        { target: 'light:Lamp', property: 'light.intensity', value: 60 },
        { target: 'light:Lamp', property: 'light.on', value: true },
      ],
      [{ target: 'light:Lamp', property: 'light.on', value: true }],
    );
    expect(rows.map((r) => [r.subject, r.what, r.aText, r.bText, r.same])).toEqual([
      ['Lamp', 'Strength', '60 cd', 'as it is (20 cd)', false],
      ['Lamp', 'On', 'yes', 'yes', true],
    ]);
  });
});
