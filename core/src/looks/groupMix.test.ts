// Light groups mixed otherwise, written back as values of a look.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { IDENTITY, type Rgb, type SceneDocument, type SceneNode } from '../scene/index.ts';
import { type Change, SceneIndex, mixChanges, mixMembers, resolve, sourceLight, withChanges } from './index.ts';

const node = (path: string, light?: number): SceneNode => ({
  path,
  name: path,
  parent: -1,
  matrix: IDENTITY,
  ...(light !== undefined && { light }),
});
const document = {
  version: 1,
  meshes: [],
  textures: [],
  cameras: [],
  materials: [
    { name: 'Clay', emissionColor: [1, 1, 1], emissionStrength: 0, textures: {} },
    { name: 'Paper', emissionColor: [1, 0.6, 0.2], emissionStrength: 2, textures: {} },
  ],
  nodes: [node('Lamp', 0), node('Lantern', 1), node('Cup')],
  lights: [
    { type: 'point', color: [1, 1, 1], intensity: 10, radiusM: 0.01 },
    { type: 'spot', color: [1, 0.5, 0.2], intensity: 5, radiusM: 0.01, innerConeRad: 0.2, outerConeRad: 0.5 },
  ],
} as unknown as SceneDocument;
const scene = new SceneIndex(document);
const c = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });
const stateOf = (changes: readonly Change[]) =>
  resolve(scene, [{ id: 'a', name: '', kind: 'base', changes: [...changes] }]);
const grouped = [
  c('light:Lantern', 'light.group', '2'),
  c('environment', 'environment.group', '3'),
  c('material:Paper', 'material.lightGroup', '2'),
  c('light:+disc/Key', 'light.added', true),
  c('light:+disc/Key', 'light.group', '4'),
];

describe('light groups and single sources that are mixed', () => {
  it('are made of lights that are on, the sky and what glows, each in its group', () => {
    const members = mixMembers(stateOf([...grouped, c('light:Lamp', 'light.on', false)]), 'group');
    expect(Object.fromEntries(members)).toEqual({
      2: ['light:Lantern', 'material:Paper'],
      3: ['environment'],
      4: ['light:+disc/Key'],
    });
  });

  const share = fc.constantFrom(0, 0.25, 1, 3);
  const change = fc.oneof(
    fc.constantFrom(3000, 9000).map((v) => c('light:Lantern', 'light.temperature', v)),
    fc.constantFrom(0.5, 7).map((v) => c('light:Lamp', 'light.intensity', v)),
    fc.constantFrom('none', 'dusk').map((v) => c('environment', 'environment.kind', v)),
    fc.constant(c('light:Lamp', 'light.color', [0.2, 0.9, 0.4])),
    fc.constant(c('material:Clay', 'material.emissionStrength', 1)),
  );
  const names = {
    group: ['1', '2', '3', '4'],
    target: ['light:Lamp', 'light:Lantern', 'light:+disc/Key', 'environment', 'material:Paper', 'material:Clay'],
  };
  for (const by of ['group', 'target'] as const)
    it(`become values of which every source is as bright as its ${by} was mixed, whatever its temperature`, () => {
      fc.assert(
        fc.property(
          fc.array(change, { maxLength: 4 }),
          fc.dictionary(fc.constantFrom(...names[by]), fc.tuple(share, share, share)),
          (more, shares) => {
            const state = stateOf([...grouped, ...more]);
            const made = mixChanges(state, new Map(Object.entries(shares)), by);
            const before = sourceLight(state);
            const after = sourceLight(withChanges(state, made));
            const members = [...mixMembers(state, by)];
            for (const [name, targets] of members)
              for (const target of targets) {
                const share: Rgb = shares[name] ?? [1, 1, 1];
                const was = before.get(target) ?? [0, 0, 0];
                const is = after.get(target) ?? [0, 0, 0];
                for (const k of [0, 1, 2]) expect(is[k]!, target).toBeCloseTo(was[k]! * share[k]!, 6);
              }
            const named = new Set(members.flatMap(([name, targets]) => (shares[name] ? targets : [])));
            for (const { target } of made) expect(named).toContain(target);
          },
        ),
        { numRuns: 300 },
      );
    });

  it('that are as they were change nothing, and a brighter one changes strengths alone', () => {
    const state = stateOf(grouped);
    expect(mixChanges(state, new Map([['1', [1, 1, 1] as const]]), 'group')).toEqual([]);
    expect(mixChanges(state, new Map([['2', [2, 2, 2] as const]]), 'group')).toEqual([
      c('light:Lantern', 'light.intensity', 10),
      c('material:Paper', 'material.emissionStrength', 4),
    ]);
    expect(mixChanges(state, new Map([['4', [0, 0, 0] as const]]), 'group')).toEqual([
      c('light:+disc/Key', 'light.on', false),
    ]);
  });
});
