// Looks that one trace can serve: which they are, what it is made from, and into which parts their light falls.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { IDENTITY, type SceneDocument, type SceneNode, cameraForScene } from '../scene/index.ts';
import {
  type Change,
  type Inputs,
  SceneIndex,
  SharedLight,
  inputsOf,
  isConstant,
  lightOf,
  lightShare,
  partsOf,
  placeDocument,
  resolve,
  sharedValues,
  sourceLight,
} from './index.ts';

const node = (path: string, more: Partial<SceneNode> = {}): SceneNode => ({
  path,
  name: path,
  parent: -1,
  matrix: IDENTITY,
  ...more,
});
const material = (name: string, emissionStrength: number) => ({
  name,
  baseColor: [0.5, 0.5, 0.5] as const,
  metallic: 0,
  roughness: 0.5,
  transmission: 0,
  ior: 1.5,
  specular: 1,
  emissionColor: [1, 1, 1] as const,
  emissionStrength,
  normalScale: 1,
  attenuationColor: [1, 1, 1] as const,
  attenuationDistanceM: null,
  solid: false,
  doubleSided: false,
  textures: {},
});
const document: SceneDocument = {
  version: 1,
  meshes: [{ name: 'cup', blob: 'cup', vertices: 3, triangles: 1, min: [0, 0, 0], max: [1, 1, 1] } as never],
  textures: [],
  cameras: [],
  materials: [material('Clay', 0), material('Paper', 2)],
  nodes: [
    node('Lamp', { light: 0 }),
    node('Lantern', { light: 1 }),
    node('Panel', { light: 2 }),
    node('Cup', { parts: [{ mesh: 0, material: 0 }] }),
    node('Shade', { parts: [{ mesh: 0, material: 1 }] }),
  ],
  lights: [
    { type: 'point', color: [1, 1, 1], intensity: 10, radiusM: 0.01 },
    { type: 'point', color: [1, 0.5, 0.2], intensity: 5, radiusM: 0.01 },
    { type: 'rectangle', color: [1, 1, 1], intensity: 3, widthM: 1, heightM: 1 },
  ] as never,
};
const scene = new SceneIndex(document);
const camera = cameraForScene(document);
const c = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });
const stateOf = (changes: readonly Change[]) =>
  resolve(scene, [{ id: 'a', name: '', kind: 'base', changes: [...changes] }]);
const valuesOf = (changes: readonly Change[]): Inputs['values'] => inputsOf('scene', camera, stateOf(changes)).values;
const asChanges = (values: Inputs['values']): Change[] => values.map(([t, p, v]) => c(t, p, v));
const together = (...looks: readonly Change[][]): boolean => {
  const light = new SharedLight();
  return looks.every((changes) => light.take(lightShare(scene, valuesOf(changes))));
};

const dim = c('light:Lamp', 'light.intensity', 2);
const off = c('light:Lamp', 'light.on', false);
const moved = c('light:Lamp', 'light.offset', [0, 1, 0]);
const added = [c('light:+spot/Key', 'light.added', true), c('light:+spot/Key', 'light.cone', 40)];
const solid = c('light:Panel', 'light.seenByCamera', true);

describe('looks may share a trace', () => {
  it.each<[string, readonly Change[][]]>([
    [
      'that differ in strength, colour and whether lamps are on',
      [[], [dim], [off], [c('light:Lantern', 'light.color', [0, 0, 1])]],
    ],
    ['that have lights of their own', [[], added, [...added, c('light:+spot/Key', 'light.intensity', 9)]]],
    [
      'that differ in how bright the sky is, or have none',
      [[], [c('environment', 'environment.strength', 0.1)], [c('environment', 'environment.kind', 'none')]],
    ],
    [
      'of which some glow where others do not',
      [[], [c('material:Clay', 'material.emissionStrength', 4)], [c('material:Paper', 'material.emissionStrength', 0)]],
    ],
    ['where a lamp that is off stands elsewhere', [[], [off, moved]]],
    [
      'where a panel that is seen is as bright as one likes',
      [[solid], [solid, c('light:Panel', 'light.intensity', 9)]],
    ],
    ['that are graded otherwise', [[], [c('grade', 'grade.exposure', 1)]]],
  ])('%s', (_, looks) => {
    expect(together(...looks)).toBe(true);
    expect(together(...[...looks].reverse())).toBe(true);
  });
  it.each<[string, readonly Change[][]]>([
    ['where a lamp that is on stands elsewhere', [[], [moved]]],
    ['where it is larger', [[], [c('light:Lamp', 'light.radius', 1)]]],
    ['where added lights are not alike', [added, [added[0]!, c('light:+spot/Key', 'light.cone', 60)]]],
    ['under other skies', [[], [c('environment', 'environment.kind', 'night')]]],
    ['with fog in one', [[], [c('environment', 'environment.fogDensity', 0.1)]]],
    ['where a panel that is seen is switched off', [[solid], [solid, c('light:Panel', 'light.on', false)]]],
    ['where a panel is seen in one', [[], [solid]]],
    ['in other materials', [[], [c('material:Clay', 'material.roughness', 0.9)]]],
    ['where something is hidden', [[], [c('object:Cup', 'object.shown', false)]]],
    ['where one has a shadow catcher', [[], [c('object:Cup', 'object.catcher', true)]]],
    [
      'where the ground catches shadow in both',
      [[c('environment', 'environment.ground', true)], [c('environment', 'environment.ground', true), dim]],
    ],
    ['with copies in one', [[dim], [dim, c('object:Cup', 'object.copyLayout', 'row')]]],
  ])('but not %s', (_, looks) => {
    expect(together(...looks)).toBe(false);
    expect(together(...[...looks].reverse())).toBe(false);
  });
});

describe('what a shared trace is made from', () => {
  const change = fc.oneof(
    fc.constantFrom(dim, off, moved, ...added, solid),
    fc
      .record({ on: fc.constantFrom('Lamp', 'Lantern', 'Panel'), value: fc.constantFrom(0, 1, 7) })
      .map((x) => c(`light:${x.on}`, 'light.intensity', x.value)),
    fc
      .record({ on: fc.constantFrom('Lamp', 'Lantern', '+spot/Key'), value: fc.boolean() })
      .map((x) => c(`light:${x.on}`, 'light.on', x.value)),
    fc.constantFrom(0, 0.2, 3).map((v) => c('environment', 'environment.strength', v)),
    fc.constantFrom('none', 'night').map((v) => c('environment', 'environment.kind', v)),
    fc
      .record({ on: fc.constantFrom('Clay', 'Paper'), value: fc.constantFrom(0, 1, 5) })
      .map((x) => c(`material:${x.on}`, 'material.emissionStrength', x.value)),
    fc.constantFrom(0.1, 0.9).map((v) => c('material:Clay', 'material.roughness', v)),
  );
  const look = fc.array(change, { maxLength: 6 });
  /** Of every light that a look has on, all but how bright it is. */
  const lights = (changes: readonly Change[]) => {
    const state = stateOf(changes);
    const placed = placeDocument(document, state);
    return new Map(
      placed.nodes.flatMap((n, i) => {
        const now = n.light === undefined ? undefined : lightOf(placed, state, i, n.matrix);
        if (!now) return [];
        const {
          light: { color: _, intensity: __, ...shape },
          ...rest
        } = now;
        return [[n.path, JSON.stringify([shape, rest])] as const];
      }),
    );
  };

  it('has every source that any look has, as that look has it, and nothing else that they do not all have', () => {
    fc.assert(
      fc.property(fc.array(look, { minLength: 2, maxLength: 4 }), (looks) => {
        const light = new SharedLight();
        const taken = looks.filter((changes) => light.take(lightShare(scene, valuesOf(changes))));
        const all = asChanges(sharedValues(scene, taken.map(valuesOf)));
        const shared = lights(all);
        const sources = sourceLight(stateOf(all));
        for (const changes of taken) {
          for (const [path, shape] of lights(changes)) expect(shared.get(path), path).toBe(shape);
          for (const target of sourceLight(stateOf(changes)).keys()) expect([...sources.keys()]).toContain(target);
          const rough = (of: readonly Change[]) => stateOf(of).get('material:Clay', 'material.roughness');
          expect(rough(all)).toBe(rough(changes));
        }
        const wanted = new Set(taken.flatMap((changes) => [...sourceLight(stateOf(changes)).keys()]));
        expect(new Set(sources.keys())).toEqual(wanted);
      }),
      { numRuns: 300 },
    );
  });

  it('is what a look is made from where it is the only one', () => {
    fc.assert(
      fc.property(look, (changes) => {
        const values = valuesOf(changes);
        expect(sharedValues(scene, [values])).toEqual(values);
      }),
    );
  });
});

describe('parts of light', () => {
  it('are of what brightens together, and add up to each look again', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.constantFrom(0, 0.5, 1, 3), { minLength: 5, maxLength: 5 }), {
          minLength: 1,
          maxLength: 4,
        }),
        (strengths) => {
          const looks = strengths.map(
            (own) =>
              new Map(own.flatMap((x, i) => (x > 0 ? [[`light:${i}`, [x, x / 2, i === 0 ? 0 : x] as const]] : []))),
          );
          const { parts, most } = partsOf(looks);
          expect(parts.flatMap((p) => p.targets).sort()).toEqual([...most.keys()].sort());
          for (const [k, own] of looks.entries())
            for (const { targets, shares } of parts)
              for (const target of targets)
                for (const channel of [0, 1, 2]) {
                  const given = own.get(target)?.[channel] ?? 0;
                  expect(most.get(target)![channel]! * shares[k]![channel]!).toBeCloseTo(given, 6);
                }
        },
      ),
    );
  });
  it('are as few as may be, and each in its light group where those stay apart', () => {
    const bright = new Map([
      ['a', [2, 2, 2]],
      ['b', [8, 4, 0]],
      ['c', [1, 1, 1]],
    ] as const);
    const dimmed = new Map([
      ['a', [1, 1, 1]],
      ['b', [4, 2, 0]],
      ['c', [1, 1, 1]],
    ] as const);
    const { parts } = partsOf([bright, dimmed]);
    expect(parts.map((p) => p.targets)).toEqual([['a', 'b'], ['c']]);
    expect(parts.map(isConstant)).toEqual([false, true]);
    expect(partsOf([bright, dimmed], (t) => (t === 'b' ? '2' : '1')).parts.map((p) => p.targets)).toEqual([
      ['a'],
      ['b'],
      ['c'],
    ]);
  });
});
