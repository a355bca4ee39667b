// What a camera in a variant is made of, layer by layer, and what an edit does to it.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { IDENTITY, type SceneDocument, type SceneNode, cameraForScene } from '../scene/index.ts';
import {
  type Change,
  type Facet,
  CellHashes,
  SceneIndex,
  compareChanges,
  cellHash,
  differences,
  inputsOf,
  keyOf,
  layersOf,
  mergeChanges,
  optionsTouching,
  overlaps,
  resolve,
  setOnObjects,
  traceHash,
  valueText,
  propertyOf,
  valueWithout,
  withoutChanges,
} from './index.ts';

const node = (path: string, parent: number, more: Partial<SceneNode> = {}): SceneNode => ({
  path,
  name: path.slice(path.lastIndexOf('/') + 1),
  parent,
  matrix: IDENTITY,
  ...more,
});
const document: SceneDocument = {
  version: 1,
  meshes: [],
  textures: [],
  cameras: [],
  materials: [],
  nodes: [
    node('Stall', -1),
    node('Stall/Kettle', 0),
    node('Stall/Cup', 0),
    node('Lamp', -1, { light: 0 }),
    node('Lantern', -1, { light: 1 }),
  ],
  lights: [
    { type: 'point', color: [1, 1, 1], intensity: 10, radiusM: 0.01 },
    { type: 'point', color: [1, 0.5, 0.2], intensity: 5, radiusM: 0.01 },
  ] as never,
};
const scene = new SceneIndex(document);
const camera = cameraForScene(document);
const c = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });
const dim = c('light:Lamp', 'light.intensity', 2);
const off = c('light:Lamp', 'light.on', false);
const hide = c('object:Stall/Kettle', 'object.shown', false);
const late = c('grade', 'grade.exposure', -1);

const option = (id: string, facet: Facet, ...changes: Change[]) => ({ id, facet, name: id, changes });
const sources = {
  base: [c('light:Lantern', 'light.intensity', 7)],
  options: [
    option('dim', 'lighting', dim),
    option('dark', 'lighting', off, { ...dim, value: 1 }),
    option('no kettle', 'visibility', hide),
    option('late', 'grade', late),
  ],
  patches: [
    { cameraId: 'near', variantId: null, changes: [{ ...hide, value: true }] },
    { cameraId: 'near', variantId: 'evening', changes: [{ ...dim, value: 3 }] },
  ],
};
const evening = { id: 'evening', optionIds: ['dim', 'no kettle', 'late'] };
const both = { id: 'both', optionIds: ['dim', 'dark'] };
const stateOf = (
  variant: { id: string; optionIds: string[] },
  cameraId: string,
  pending: { destination: string; changes: Change[] }[] = [],
) => resolve(scene, layersOf(sources as never, variant, cameraId, pending as never));

describe('a camera in a variant', () => {
  it('has the base, then the options, then its patches, the nearer over the farther', () => {
    const wide = stateOf(evening, 'wide');
    const near = stateOf(evening, 'near');
    const other = stateOf({ id: 'other', optionIds: ['dim', 'no kettle'] }, 'near');
    expect(
      [wide, near, other].map((s) => [
        s.get('light:Lantern', 'light.intensity'),
        s.get('light:Lamp', 'light.intensity'),
        s.get('object:Stall/Kettle', 'object.shown'),
      ]),
    ).toEqual([
      [7, 2, false],
      [7, 3, true],
      [7, 2, true],
    ]);
    expect(near.provenance('light:Lamp', 'light.intensity')!.layers.map((l) => l.kind)).toEqual(['option', 'patch']);
  });
  it('has of two options of a facet the later one’s value, and says where they meet', () => {
    const s = stateOf(both, 'wide');
    expect(s.get('light:Lamp', 'light.intensity')).toBe(1);
    expect(overlaps(s).map((v) => keyOf(v.target, v.property.id))).toEqual([keyOf('light:Lamp', 'light.intensity')]);
    expect(overlaps(stateOf(evening, 'wide'))).toEqual([]);
  });
  it('shows pending edits of what it is made of, and of nothing else', () => {
    const seven = { ...dim, value: 7 };
    for (const destination of ['base', 'option:dim', 'camera:wide', 'cell:wide:evening'])
      expect(
        stateOf(evening, 'wide', [{ destination, changes: [off] }]).get('light:Lamp', 'light.on'),
        destination,
      ).toBe(false);
    for (const destination of ['option:dark', 'camera:near', 'cell:near:evening', 'cell:wide:both'])
      expect(
        stateOf(evening, 'wide', [{ destination, changes: [seven] }]).get('light:Lamp', 'light.intensity'),
        destination,
      ).toBe(2);
  });
  it('knows what each value would be without the layer that gives it', () => {
    const s = stateOf(evening, 'near');
    const without = (target: string, property: string) => valueWithout(s, s.provenance(target, property)!);
    expect([
      without('light:Lamp', 'light.intensity'),
      without('light:Lantern', 'light.intensity'),
      without('object:Stall/Kettle', 'object.shown'),
    ]).toEqual([2, 5, false]);
  });
  it('keeps aside what is of things that the scene does not have, or of another facet than its option', () => {
    const stray = c('light:Gone', 'light.on', false);
    const s = resolve(
      scene,
      layersOf(
        { ...sources, options: [option('dim', 'lighting', dim, hide, stray)] } as never,
        { id: 'v', optionIds: ['dim'] },
        'wide',
        [],
      ),
    );
    expect(s.unmatched).toEqual([hide, stray]);
    expect(s.get('object:Stall/Kettle', 'object.shown')).toBe(true);
  });
});

describe('values of one property over all objects', () => {
  it('are those that asking one by one gives', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...document.nodes.map((n) => n.path)), fc.boolean()), { maxLength: 6 }),
        (set) => {
          const s = resolve(scene, [
            {
              id: 'x',
              name: '',
              kind: 'base',
              changes: set.map(([path, v]) => c(`object:${path}`, 'object.castsShadow', v)),
            },
          ]);
          const of = setOnObjects(s, 'object.castsShadow');
          for (const n of document.nodes) {
            const own = of(n.path);
            if (own !== undefined) expect(own).toBe(s.get(`object:${n.path}`, 'object.castsShadow'));
            else expect(s.provenance(`object:${n.path}`, 'object.castsShadow')).toBeUndefined();
          }
        },
      ),
    );
  });
});

const anyChange = fc.oneof(
  fc.record({
    target: fc.constantFrom('light:Lamp', 'light:Lantern'),
    property: fc.constant('light.intensity'),
    value: fc.integer({ min: 0, max: 4 }),
  }),
  fc.record({
    target: fc.constantFrom('light:Lamp', 'light:Lantern'),
    property: fc.constant('light.on'),
    value: fc.boolean(),
  }),
  fc.record({
    target: fc.constantFrom('object:Stall/Kettle', 'object:Stall/Cup'),
    property: fc.constant('object.shown'),
    value: fc.boolean(),
  }),
  fc.record({
    target: fc.constant('grade'),
    property: fc.constant('grade.exposure'),
    value: fc.integer({ min: -2, max: 2 }),
  }),
);
const changes = fc.array(anyChange, { maxLength: 8 }) as fc.Arbitrary<Change[]>;

describe('lists of changes', () => {
  it('merged have every value once, that of the later list', () => {
    fc.assert(
      fc.property(changes, changes, (a, b) => {
        const merged = mergeChanges(a, b);
        const keys = merged.map((x) => keyOf(x.target, x.property));
        expect(new Set(keys).size).toBe(keys.length);
        for (const x of merged)
          expect(x.value).toEqual(
            [...a, ...b].findLast((y) => keyOf(y.target, y.property) === keyOf(x.target, x.property))!.value,
          );
        expect(new Set(keys)).toEqual(new Set([...a, ...b].map((x) => keyOf(x.target, x.property))));
      }),
    );
  });
  it('without what was merged into them are what they were, but for what it replaced', () => {
    fc.assert(
      fc.property(changes, changes, (a, b) => {
        const before = mergeChanges(a, []);
        const left = withoutChanges(mergeChanges(before, b), b);
        expect(left).toEqual(withoutChanges(before, b));
      }),
    );
  });
  it('side by side name every value that either sets, and agree only where both set the same', () => {
    fc.assert(
      fc.property(changes, changes, (x, y) => {
        const a = mergeChanges(x, []);
        const b = mergeChanges(y, []);
        const rows = compareChanges(scene, a, b);
        expect(new Set(rows.map((r) => keyOf(r.target, r.property)))).toEqual(
          new Set([...a, ...b].map((v) => keyOf(v.target, v.property))),
        );
        for (const r of rows) expect(r.same).toBe(r.a !== undefined && r.a === r.b);
        expect(compareChanges(scene, a, a).every((r) => r.same)).toBe(true);
      }),
    );
  });
  it('say in words what they leave', () => {
    const [row] = compareChanges(scene, [dim], []);
    expect([row!.subject, row!.aText, row!.bText]).toEqual(['Lamp', '2 cd', 'as it is (10 cd)']);
    expect(optionsTouching(sources.options, ['object:Stall/Kettle']).map((o) => o.id)).toEqual(['no kettle']);
  });
});

describe('hashes of cells', () => {
  const hashes = () => new CellHashes(scene, 'scene');
  const project = (base: Change[], optionChanges: Change[], patch: Change[]) =>
    ({
      base,
      options: [option('o', 'lighting', ...optionChanges.filter((x) => x.property.startsWith('light.')))],
      patches: [{ cameraId: 'near', variantId: null, changes: patch }],
      cameras: [
        { id: 'near', settings: camera },
        { id: 'wide', settings: { ...camera, focalLengthMm: 24 } },
      ],
      variants: [
        { id: 'base', optionIds: [] },
        { id: 'with', optionIds: ['o'] },
      ],
    }) as never as Parameters<CellHashes['all']>[0];

  it('are those of the inputs, cell by cell', () => {
    fc.assert(
      fc.property(changes, changes, changes, (base, own, patch) => {
        const p = project(base, own, patch);
        for (const h of hashes().all(p)) {
          const settings = p.cameras.find((k) => k.id === h.cameraId)!.settings;
          const inputs = inputsOf(
            'scene',
            settings,
            resolve(
              scene,
              layersOf(
                p,
                p.variants.find((v) => v.id === h.variantId)!,
                h.cameraId,
              ),
            ),
          );
          expect([h.cell, h.trace]).toEqual([cellHash(inputs), traceHash(inputs)]);
        }
      }),
      { numRuns: 60 },
    );
  });
  it('change with what is seen, not with what the scene has anyway, and come back with it', () => {
    const of = (...base: Change[]) => hashes().all(project(base, [], []))[0]!;
    expect(of(c('light:Lamp', 'light.intensity', 10)).cell).toBe(of().cell);
    expect(of(dim).cell).not.toBe(of().cell);
    expect(of(dim, { ...dim, value: 10 }).cell).toBe(of().cell);
  });
  it('of traces do not change with a grade, those of cells do', () => {
    const of = (...base: Change[]) => hashes().all(project(base, [], []))[0]!;
    expect(of(late).trace).toBe(of().trace);
    expect(of(late).cell).not.toBe(of().cell);
  });
  it('kept between edits are those of a fresh start', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(changes, changes, changes), { minLength: 2, maxLength: 5 }), (edits) => {
        const kept = hashes();
        for (const [base, own, patch] of edits) {
          const p = project(base, own, patch);
          expect(kept.all(p)).toEqual(hashes().all(p));
        }
      }),
      { numRuns: 30 },
    );
  });
});

describe('differences', () => {
  it('are none where hashes are equal, and say each value that is another', () => {
    fc.assert(
      fc.property(changes, changes, (a, b) => {
        const stateA = resolve(scene, [{ id: 'a', name: '', kind: 'base', changes: a }]);
        const stateB = resolve(scene, [{ id: 'b', name: '', kind: 'base', changes: b }]);
        const was = inputsOf('s', camera, stateA);
        const now = inputsOf('s', camera, stateB);
        const said = differences(was, now, stateB);
        expect(said.length === 0).toBe(cellHash(was) === cellHash(now));
        for (const d of said) expect(d.was).not.toBe(d.is);
      }),
    );
  });
  it('name the scene’s newer revision and a moved camera', () => {
    const s = resolve(scene, []);
    const moved = { ...camera, matrix: [...camera.matrix.slice(0, 12), 9, 9, 9, 1] as unknown as typeof camera.matrix };
    expect(
      differences(inputsOf('one', camera, s), inputsOf('two', moved, s), s).map((d) => `${d.subject}: ${d.what}`),
    ).toEqual(['Scene: revision', 'Camera: moved']);
  });
});

describe('values in words', () => {
  it.each([
    ['light.on', false, '', 'no'],
    ['light.intensity', 1234.5678, 'cd', '1235 cd'],
    ['environment.turn', 45, '°', '45°'],
    ['grade.exposure', -0.5, 'EV', '-0.5 EV'],
    ['light.color', [1, 0.5, 0], '', '#ffbc00'],
    ['object.offset', [0, 1.25, -3], 'm', '0, 1.25, -3 m'],
    ['scene.drawn', 'ink', '', 'Flat steps and ink'],
  ] as const)('%s of %j is said as it is on a page', (property, value, unit, text) => {
    expect(valueText(propertyOf(property), value as never, unit, scene)).toBe(text);
  });
});
