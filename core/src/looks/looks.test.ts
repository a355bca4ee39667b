// Laws of the resolver, over random looks; and staleness by fingerprint.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type CameraSettings, IDENTITY, type SceneDocument, cameraForScene } from '../scene/index.ts';
import { CellHashes } from './cellHashes.ts';
import { FACETS, type Facet } from './facets.ts';
import { type Inputs, cellHash, differences, inputsOf, traceHash } from './fingerprint.ts';
import { layersOf } from './layers.ts';
import { PROPERTIES, SceneIndex, type Value, faultOfValue, propertiesFor, propertyOf } from './properties.ts';
import {
  type Change,
  type Layer,
  keyOf,
  mergeChanges,
  overlaps,
  resolve,
  sameValue,
  withoutChanges,
} from './resolve.ts';
import { parseTarget } from './targets.ts';

const material = (name: string) => ({
  name,
  baseColor: [0.5, 0.4, 0.3] as const,
  metallic: 0,
  roughness: 0.5,
  transmission: 0,
  ior: 1.5,
  specular: 1,
  emissionColor: [0, 0, 0] as const,
  emissionStrength: 1,
  normalScale: 1,
  attenuationColor: [1, 1, 1] as const,
  attenuationDistanceM: null,
  solid: false,
  doubleSided: false,
  textures: {},
});
const document: SceneDocument = {
  version: 1,
  meshes: [],
  textures: [],
  cameras: [],
  materials: [material('Copper'), material('Celadon')],
  lights: [
    { type: 'point', color: [1, 1, 1], intensity: 60, radiusM: 0.1 },
    { type: 'sun', color: [1, 1, 1], intensity: 3, angularDiameterRad: 0.01 },
  ],
  nodes: [
    { path: 'Stall', name: 'Stall', parent: -1, matrix: IDENTITY },
    { path: 'Stall/Kettle', name: 'Kettle', parent: 0, matrix: IDENTITY, parts: [{ mesh: 0, material: 0 }] },
    { path: 'Lantern 4', name: 'Lantern 4', parent: -1, matrix: IDENTITY, light: 0 },
    { path: 'Sun', name: 'Sun', parent: -1, matrix: IDENTITY, light: 1 },
  ],
};
const scene = new SceneIndex(document);
const TARGETS = [
  'object:Stall',
  'object:Stall/Kettle',
  'light:Lantern 4',
  'light:Sun',
  'material:Copper',
  'material:Celadon',
  'environment',
  'grade',
];
const SLOTS = TARGETS.flatMap((target) => propertiesFor(scene, target).map((property) => ({ target, property })));

const valueOf = (p: (typeof PROPERTIES)[number]): fc.Arbitrary<Value> => {
  switch (p.type) {
    case 'boolean':
      return fc.boolean();
    case 'number':
      return fc.integer({
        min: Math.ceil(Math.max(p.min, -100)),
        max: Math.floor(Math.min(p.max, Math.max(p.min, 0) + 100)),
      });
    case 'color':
      return fc.tuple(fc.constantFrom(0, 0.25, 1), fc.constantFrom(0, 0.5, 1), fc.constantFrom(0, 1));
    case 'vector':
      return fc.tuple(fc.integer({ min: 1, max: 9 }), fc.constantFrom(1, 2), fc.constantFrom(1, 3));
    case 'choice':
      return fc.constantFrom(...p.choices(scene).map((c) => c.value));
  }
};
const changesIn = (facet?: Facet): fc.Arbitrary<Change[]> =>
  fc.array(
    fc
      .constantFrom(...SLOTS.filter((s) => !facet || s.property.facet === facet))
      .chain((s) => valueOf(s.property).map((value) => ({ target: s.target, property: s.property.id, value }))),
    { maxLength: 6 },
  );
const USED = FACETS.filter((f) => SLOTS.some((s) => s.property.facet === f));
const option: fc.Arbitrary<Layer> = fc.constantFrom(...USED).chain((facet) =>
  fc.record({
    id: fc.uuid(),
    name: fc.string({ maxLength: 8 }),
    kind: fc.constant('option' as const),
    facet: fc.constant(facet),
    changes: changesIn(facet),
  }),
);
const asPlain = (layers: readonly Layer[]) =>
  [...resolve(scene, layers).values].map(([k, v]) => [k, v.value] as const).sort(([a], [b]) => (a < b ? -1 : 1));

describe('the resolver', () => {
  it('options of different facets commute', () => {
    fc.assert(
      fc.property(option, option, (a, b) => {
        fc.pre(a.facet !== b.facet);
        expect(asPlain([a, b])).toEqual(asPlain([b, a]));
      }),
    );
  });
  it('the base is neutral: without changes everything is as in the scene', () => {
    fc.assert(
      fc.property(fc.constantFrom(...SLOTS), ({ target, property }) => {
        expect(resolve(scene, []).get(target, property.id)).toEqual(property.base(scene, parseTarget(target)!.name));
      }),
    );
  });
  it('the last layer that sets a value gives it, and is named as its origin', () => {
    fc.assert(
      fc.property(fc.array(option, { maxLength: 5 }), (layers) => {
        const state = resolve(scene, layers);
        for (const v of state.values.values()) {
          const setters = layers.filter((l) =>
            l.changes.some((c) => keyOf(c.target, c.property) === keyOf(v.target, v.property.id)),
          );
          expect(v.layers).toEqual(setters);
          expect(v.value).toEqual(
            setters
              .at(-1)!
              .changes.filter((c) => keyOf(c.target, c.property) === keyOf(v.target, v.property.id))
              .at(-1)!.value,
          );
        }
      }),
    );
  });
  it('keeping changes and then clearing them restores what was there', () => {
    fc.assert(
      fc.property(changesIn(), changesIn(), (before, more) => {
        const fresh = more.filter(
          (c) => !before.some((b) => keyOf(b.target, b.property) === keyOf(c.target, c.property)),
        );
        const old = mergeChanges([], before);
        expect(withoutChanges(mergeChanges(old, fresh), fresh)).toEqual(old);
      }),
    );
  });
  it('nothing is lost: what the scene does not have, or an option may not hold, is kept aside', () => {
    const strange: Change[] = [
      { target: 'object:Gone', property: 'object.shown', value: false },
      { target: 'light:Lantern 4', property: 'light.on', value: false },
    ];
    const state = resolve(scene, [{ id: 'o', name: 'o', kind: 'option', facet: 'visibility', changes: strange }]);
    expect(state.values.size).toBe(0);
    expect(state.unmatched).toEqual(strange);
  });
  it('says where two options of one variant set the same value', () => {
    const set = (id: string, value: number): Layer => ({
      id,
      name: id,
      kind: 'option',
      facet: 'lighting',
      changes: [{ target: 'light:Lantern 4', property: 'light.intensity', value }],
    });
    const [only] = overlaps(resolve(scene, [set('a', 10), set('b', 20)]));
    expect(only?.value).toBe(20);
    expect(only?.layers.map((l) => l.id)).toEqual(['a', 'b']);
  });
});

describe('layers of a cell', () => {
  const sources = {
    base: [{ target: 'grade', property: 'grade.exposure', value: 1 }],
    options: [
      {
        id: 'o1',
        facet: 'grade' as const,
        name: 'Bright',
        changes: [{ target: 'grade', property: 'grade.exposure', value: 2 }],
      },
    ],
    patches: [
      { cameraId: 'c1', variantId: null, changes: [{ target: 'grade', property: 'grade.exposure', value: 3 }] },
      { cameraId: 'c1', variantId: 'v1', changes: [{ target: 'grade', property: 'grade.exposure', value: 4 }] },
    ],
  };
  const exposure = (
    cameraId: string,
    variantId: string,
    optionIds: string[],
    pending = [] as { destination: string; changes: Change[] }[],
  ) =>
    resolve(scene, layersOf(sources, { id: variantId, optionIds }, cameraId, pending)).get('grade', 'grade.exposure');
  it('patches win over options and options over the base, each only where it holds', () => {
    expect([
      exposure('c2', 'v1', []),
      exposure('c2', 'v1', ['o1']),
      exposure('c1', 'v2', ['o1']),
      exposure('c1', 'v1', ['o1']),
    ]).toEqual([1, 2, 3, 4]);
  });
  it('pending edits show in their destination only', () => {
    const pending = [
      { destination: 'option:o1', changes: [{ target: 'grade', property: 'grade.exposure', value: 9 }] },
    ];
    expect([exposure('c2', 'v1', ['o1'], pending), exposure('c2', 'v1', [], pending)]).toEqual([9, 1]);
  });
});

describe('fingerprints', () => {
  const camera: CameraSettings = cameraForScene({ ...document, nodes: [] });
  const inputs = (layers: readonly Layer[], c = camera): Inputs => inputsOf('s'.repeat(64), c, resolve(scene, layers));
  it('one state has one hash, whatever the order in which it was recorded', () => {
    fc.assert(
      fc.property(changesIn(), fc.func(fc.integer()), (changes, rank) => {
        const unique = mergeChanges([], changes);
        const shuffled = [...unique].sort((a, b) => rank(a.target, a.property) - rank(b.target, b.property));
        const of = (list: readonly Change[]) => cellHash(inputs([{ id: 'x', name: 'x', kind: 'base', changes: list }]));
        expect(of(shuffled)).toBe(of(unique));
      }),
    );
  });
  it('a value that differs gives another hash, and changing it back the old one', () => {
    fc.assert(
      fc.property(
        fc
          .constantFrom(...SLOTS)
          .chain((s) => valueOf(s.property).map((value) => ({ target: s.target, property: s.property.id, value }))),
        (change) => {
          const base = propertyOf(change.property)!.base(scene, parseTarget(change.target)!.name);
          const of = (list: Change[]) => cellHash(inputs([{ id: 'x', name: 'x', kind: 'base', changes: list }]));
          // nothing wears Celadon, so that no picture shows it
          const isShown = change.target !== 'material:Celadon';
          expect(of([change]) === of([])).toBe(!isShown || sameValue(change.value, base));
          expect(of(mergeChanges([change], [{ ...change, value: base! }]))).toBe(of([]));
        },
      ),
    );
  });
  it('names of layers do not matter; a grade does not ask for another trace', () => {
    const grade = (name: string): Layer[] => [
      {
        id: name,
        name,
        kind: 'option',
        facet: 'grade',
        changes: [{ target: 'grade', property: 'grade.exposure', value: 2 }],
      },
    ];
    expect(cellHash(inputs(grade('a')))).toBe(cellHash(inputs(grade('b'))));
    expect(cellHash(inputs(grade('a')))).not.toBe(cellHash(inputs([])));
    expect(traceHash(inputs(grade('a')))).toBe(traceHash(inputs([])));
  });
  it('of many cells at once are those of each by itself, also after edits', () => {
    const cameras = ['c1', 'c2'].map((id) => ({ id, settings: { ...camera, nearM: id === 'c1' ? 0.1 : 0.2 } }));
    const options = fc
      .array(option, { minLength: 1, maxLength: 5 })
      .map((list) => list.map((o, i) => ({ id: `o${i}`, facet: o.facet!, name: o.name, changes: o.changes })));
    fc.assert(
      fc.property(
        changesIn(),
        options,
        changesIn(),
        changesIn(),
        fc.nat(),
        changesIn(),
        (base, all, own, cell, at, more) => {
          const sources = {
            base,
            options: all,
            patches: [
              { cameraId: 'c2', variantId: null, changes: own },
              { cameraId: 'c1', variantId: 'v1', changes: cell },
            ],
            cameras,
            variants: [
              { id: 'v0', optionIds: [] },
              { id: 'v1', optionIds: all.map((o) => o.id) },
              { id: 'v2', optionIds: [all[0]!.id] },
            ],
          };
          const edited = {
            ...sources,
            options: all.map((o, i) =>
              i === at % all.length
                ? {
                    ...o,
                    changes: mergeChanges(
                      o.changes,
                      more.filter((c) => propertyOf(c.property)!.facet === o.facet),
                    ),
                  }
                : o,
            ),
          };
          const hashes = new CellHashes(scene, 's'.repeat(64));
          for (const p of [sources, edited, sources])
            for (const h of hashes.all(p)) {
              const variant = p.variants.find((v) => v.id === h.variantId)!;
              const i = inputsOf(
                's'.repeat(64),
                cameras.find((c) => c.id === h.cameraId)!.settings,
                resolve(scene, layersOf(p, variant, h.cameraId)),
              );
              expect([h.cell, h.trace]).toEqual([cellHash(i), traceHash(i)]);
              expect(hashes.ofLayers(layersOf(p, variant, h.cameraId), i.camera)).toBe(h.cell);
            }
        },
      ),
      { numRuns: 60 },
    );
  });
  it('differences are said in words, with units', () => {
    const now: Layer[] = [
      {
        id: 'x',
        name: 'x',
        kind: 'option',
        facet: 'lighting',
        changes: [{ target: 'light:Lantern 4', property: 'light.intensity', value: 85 }],
      },
    ];
    expect(differences(inputs([]), inputs(now), resolve(scene, now))).toEqual([
      { subject: 'Lantern 4', what: 'strength', was: '60 cd', is: '85 cd' },
    ]);
    expect(differences(inputs([]), inputs([], { ...camera, focalLengthMm: 50 }), resolve(scene, []))).toEqual([
      { subject: 'Camera', what: 'focal length', was: '35', is: '50' },
    ]);
  });
});

describe('values', () => {
  it('out of range, of the wrong kind or not finite are refused with the range', () => {
    const intensity = propertyOf('light.intensity')!;
    const roughness = propertyOf('material.roughness')!;
    for (const bad of [-1, NaN, Infinity, '5', null, [1]]) expect(faultOfValue(intensity, bad)).toBeTruthy();
    expect(faultOfValue(roughness, 1.5)).toBe('Roughness goes from 0 to 1.');
    expect(faultOfValue(propertyOf('light.color')!, [0, 0.5, 2])).toBeTruthy();
    expect(faultOfValue(roughness, 0.5)).toBeUndefined();
  });
  it('every property has an id of its own and one facet', () => {
    expect(new Set(PROPERTIES.map((p) => p.id)).size).toBe(PROPERTIES.length);
    for (const p of PROPERTIES) expect(FACETS).toContain(p.facet);
  });
});
