// What the contract promises, held for every route, error and property that it declares: a new one is in these tests by
// itself.
import {
  DRAWN_LOOKS,
  FACETS,
  PROPERTIES,
  type Property,
  SceneIndex,
  type Value,
  parseTarget,
  longestChoice,
} from '@variscen/core/looks';
import { type SceneDocument, IDENTITY } from '@variscen/core/scene';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  AppError,
  ERRORS,
  type ErrorCode,
  ROUTES,
  type RouteSpec,
  changeSchema,
  destinationSchema,
  looksFileJsonSchema,
  looksFileSchema,
  nameSchema,
} from './index.ts';

const routes = Object.entries(ROUTES) as [string, RouteSpec][];
const UUID = '01234567-89ab-4def-8123-456789abcdef';

describe('errors', () => {
  it.each(Object.keys(ERRORS) as ErrorCode[])('%s has a status of refusal and says what to do', (code) => {
    const { status, remedy } = ERRORS[code];
    expect(status).toBeGreaterThanOrEqual(400);
    expect(status).toBeLessThan(600);
    expect(remedy).toMatch(/^[A-Z].*\.$/);
    expect(remedy).not.toMatch(/\berror\b/i);
    const e = new AppError(code, 'The kettle is cold.');
    expect([e.status, e.remedy, e.message]).toEqual([status, remedy, 'The kettle is cold.']);
  });
  it('can say more than their usual remedy', () => {
    expect(new AppError('INVALID', 'Too wide.', 'Take a narrower one.').remedy).toBe('Take a narrower one.');
  });
});

describe('routes', () => {
  it('have each an address and method of their own', () => {
    const seen = routes.map(([, r]) => `${r.method} ${r.path}`);
    expect(new Set(seen).size).toBe(seen.length);
  });
  it.each(routes)('%s names in its address exactly the parameters that it checks', (_name, r) => {
    const inPath = [...r.path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]!).sort();
    expect(Object.keys(r.params?.shape ?? {}).sort()).toEqual(inPath);
  });
  it.each(routes)('%s says in a sentence what it does, and what comes back', (_name, r) => {
    expect(r.summary).toMatch(/^[A-Z].*[.]$/);
    expect(r.response !== undefined || r.download !== undefined).toBe(true);
    if (r.body || r.upload) expect(r.method).not.toBe('get');
  });
  it.each(routes.filter(([, r]) => r.params))('%s takes no address that leads elsewhere', (_name, r) => {
    const hostile = [
      '',
      '..',
      '../..',
      '%2e%2e',
      'a/b',
      '\0',
      "'; DROP TABLE renders; --",
      UUID.toUpperCase().repeat(40),
    ];
    for (const h of hostile) {
      const params = Object.fromEntries(Object.keys(r.params!.shape).map((k) => [k, h]));
      expect(r.params!.safeParse(params).success, h).toBe(false);
    }
  });
  it.each(routes.filter(([, r]) => r.body))(
    '%s refuses bodies of another shape instead of failing on them',
    (_name, r) => {
      fc.assert(
        fc.property(
          fc.oneof(fc.constantFrom<unknown>(null, [], 'text', 7, true), fc.array(fc.jsonValue()), fc.string()),
          (junk) => {
            expect(r.body!.safeParse(junk).success).toBe(false);
          },
        ),
        { numRuns: 40 },
      );
    },
  );
});

/** A value that the declaration of a property allows. */
function allowed(p: Property): fc.Arbitrary<Value> {
  switch (p.type) {
    case 'boolean':
      return fc.boolean();
    case 'number':
      return fc.double({ min: p.min, max: p.max, noNaN: true });
    case 'color':
      return fc.tuple(
        ...[0, 1, 2].map(() => fc.double({ min: 0, max: 1, noNaN: true })),
      ) as unknown as fc.Arbitrary<Value>;
    case 'vector':
      return fc.tuple(
        ...[0, 1, 2].map(() =>
          p.whole ? fc.integer({ min: p.min, max: p.max }) : fc.double({ min: p.min, max: p.max, noNaN: true }),
        ),
      ) as unknown as fc.Arbitrary<Value>;
    case 'choice':
      return fc.string({ minLength: 1, maxLength: longestChoice(p) });
  }
}
/** One of another kind, or out of its range. */
function refused(p: Property): fc.Arbitrary<unknown> {
  const other = fc.constantFrom<unknown>(
    null,
    undefined,
    {},
    [],
    Number.NaN,
    Infinity,
    -Infinity,
    [1, 2],
    [1, 2, 3, 4],
    ['1', '2', '3'],
    [0, 0, Number.NaN],
  );
  switch (p.type) {
    case 'boolean':
      return fc.oneof(other, fc.integer(), fc.string());
    case 'number':
      return fc.oneof(
        other,
        fc.string(),
        fc.boolean(),
        fc.double({ min: p.max * 1.001 + 1, max: 1e300, noNaN: true }),
        fc.double({ min: -1e300, max: p.min - Math.abs(p.min) * 0.001 - 1, noNaN: true }),
      );
    case 'color':
      return fc.oneof(other, fc.string(), fc.integer(), fc.constantFrom([1.01, 0, 0], [0, -0.01, 0]));
    case 'vector':
      return fc.oneof(
        other,
        fc.string(),
        fc.integer(),
        fc.constantFrom([p.max + 1, p.max, p.max], [p.min, p.min - 1, p.min]),
        ...(p.whole ? [fc.constant([p.min + 0.5, p.min, p.min])] : []),
      );
    case 'choice':
      return fc.oneof(
        other,
        fc.integer(),
        fc.boolean(),
        fc.constant(''),
        fc.constant('x'.repeat(longestChoice(p) + 1)),
      );
  }
}
const targetFor = (p: Property): string =>
  ['object', 'light', 'material'].includes(p.on) ? `${p.on}:Stall/Kettle` : p.on;

describe('changes', () => {
  it.each(PROPERTIES.map((p) => [p.id, p] as const))('%s takes every value of its range and no other', (_id, p) => {
    const target = targetFor(p);
    fc.assert(
      fc.property(allowed(p), (value) => {
        const r = changeSchema.safeParse({ target, property: p.id, value });
        expect(r.success, r.success ? '' : JSON.stringify(r.error.issues)).toBe(true);
      }),
      { numRuns: 30 },
    );
    fc.assert(
      fc.property(refused(p), (value) => {
        expect(changeSchema.safeParse({ target, property: p.id, value }).success).toBe(false);
      }),
      { numRuns: 30 },
    );
  });
  it.each(PROPERTIES.map((p) => [p.id, p] as const))('%s belongs to one kind of thing', (id, p) => {
    const value = fc.sample(allowed(p), 1)[0];
    for (const target of ['object:Kettle', 'light:Lantern', 'material:Copper', 'environment', 'grade', 'scene']) {
      expect(changeSchema.safeParse({ target, property: id, value }).success, target).toBe(
        parseTarget(target)!.kind === p.on,
      );
    }
  });
  it('say which value is wrong and what its range is', () => {
    const r = changeSchema.safeParse({ target: 'light:Lantern', property: 'light.intensity', value: -3 });
    expect(r.success).toBe(false);
    expect(
      r
        .error!.issues.map((i) => [i.path.join('.'), i.message])
        .flat()
        .join(' '),
    ).toMatch(/value Strength goes from 0/);
  });
  it('are of things that there can be', () => {
    fc.assert(
      fc.property(fc.string(), (target) => {
        const ok = changeSchema.safeParse({ target, property: 'object.shown', value: false }).success;
        expect(ok).toBe(/^object:.+/s.test(target));
      }),
    );
  });
});

describe('declared properties', () => {
  const document: SceneDocument = {
    version: 1,
    meshes: [],
    textures: [],
    cameras: [],
    nodes: [
      { path: 'Kettle', name: 'Kettle', parent: -1, matrix: IDENTITY, parts: [{ mesh: 0, material: 0 }] },
      { path: 'Lantern', name: 'Lantern', parent: -1, matrix: IDENTITY, light: 0 },
    ],
    materials: [
      {
        name: 'Copper',
        baseColor: [0.9, 0.5, 0.3],
        metallic: 1,
        roughness: 0.3,
        specular: 1,
        ior: 1.5,
        transmission: 0,
        solid: false,
        emissionColor: [0, 0, 0],
        emissionStrength: 0,
        normalScale: 1,
        doubleSided: false,
        textures: {},
      } as never,
    ],
    lights: [
      { type: 'spot', color: [1, 0.8, 0.6], intensity: 40, radiusM: 0.02, innerConeRad: 0.2, outerConeRad: 0.5 },
    ],
  };
  const scene = new SceneIndex(document);
  const nameOf = {
    object: 'Kettle',
    light: 'Lantern',
    material: 'Copper',
    environment: '',
    grade: '',
    scene: '',
  } as const;
  it('have one name each, a facet that exists and a label without a full stop', () => {
    expect(new Set(PROPERTIES.map((p) => p.id)).size).toBe(PROPERTIES.length);
    for (const p of PROPERTIES) {
      expect(FACETS, p.id).toContain(p.facet);
      expect(p.label, p.id).toMatch(/^[A-Z].*[^.]$/);
    }
  });
  it.each(PROPERTIES.map((p) => [p.id, p] as const))(
    '%s has a value in the scene that it would take itself, where the thing has it',
    (_id, p) => {
      const base = p.base(scene, nameOf[p.on]);
      if (base === undefined) return;
      expect(
        changeSchema.safeParse({ target: targetFor(p), property: p.id, value: base }).success,
        JSON.stringify(base),
      ).toBe(true);
      if (p.type === 'choice')
        expect(
          p.choices(scene).map((c) => c.value),
          p.id,
        ).toContain(base);
    },
  );
  it('draw the whole scene in every way in which one object can be drawn, but as its group', () => {
    const whole = PROPERTIES.find((p) => p.id === 'scene.drawn')!;
    expect(whole.type === 'choice' && whole.choices(scene).map((c) => c.value)).toEqual(
      DRAWN_LOOKS.map((d) => d.id).filter((d) => d !== 'group'),
    );
  });
});

describe('destinations', () => {
  it.each(['base', `option:${UUID}`, `camera:${UUID}`, `cell:${UUID}:${UUID}`])('%s is one', (d) => {
    expect(destinationSchema.safeParse(d).success).toBe(true);
  });
  it('nothing else is', () => {
    for (const d of [
      '',
      'Base',
      'base ',
      ' base',
      'base\n',
      `option:${UUID}x`,
      `xoption:${UUID}`,
      `option:${UUID}\nbase`,
      `cell:${UUID}`,
      `camera:${UUID}:${UUID}`,
    ])
      expect(destinationSchema.safeParse(d).success, JSON.stringify(d)).toBe(false);
    fc.assert(
      fc.property(fc.string(), (d) => {
        expect(destinationSchema.safeParse(d).success).toBe(d === 'base');
      }),
    );
  });
});

describe('names', () => {
  it('are trimmed, and are neither empty nor longer than a line', () => {
    expect(nameSchema.parse('  Late lamp ')).toBe('Late lamp');
    for (const bad of ['', '   ', '\n\t', 'x'.repeat(121)]) expect(nameSchema.safeParse(bad).success).toBe(false);
  });
});

describe('files of options', () => {
  const option = {
    facet: 'lighting',
    name: 'Dim',
    notes: '',
    changes: [{ target: 'light:Lamp', property: 'light.intensity', value: 2 }],
  };
  const file = { format: 'variscen.looks', version: 1, from: 'Tea stall', options: [option] };
  it('are read as they were written', () => {
    expect(looksFileSchema.parse(file)).toEqual({ ...file, wears: {} });
  });
  it.each([
    ['another program’s file', { ...file, format: 'something' }, /not a file of options/],
    ['a newer version', { ...file, version: 2 }, /newer Variscen/],
    ['no option', { ...file, options: [] }, /holds no option/],
    ['a facet that is none', { ...file, options: [{ ...option, facet: 'mood' }] }, /facet|Invalid/],
    [
      'a value out of range',
      { ...file, options: [{ ...option, changes: [{ ...option.changes[0], value: -1 }] }] },
      /Strength goes from 0/,
    ],
  ])('%s is refused in words', (_what, bad, why) => {
    const r = looksFileSchema.safeParse(bad);
    expect(r.success).toBe(false);
    expect(r.error!.issues.map((i) => i.message).join(' ')).toMatch(why);
  });
  it('have a schema with every property under its target', () => {
    const schema = looksFileJsonSchema() as {
      $defs: { change: { oneOf: { properties: { property: { const: string }; target: { pattern: string } } }[] } };
    };
    const declared = schema.$defs.change.oneOf.map((c) => c.properties);
    expect(declared.map((c) => c.property.const).sort()).toEqual(PROPERTIES.map((p) => p.id).sort());
    for (const c of declared)
      expect(new RegExp(c.target.pattern).test(targetFor(PROPERTIES.find((p) => p.id === c.property.const)!))).toBe(
        true,
      );
  });
});
