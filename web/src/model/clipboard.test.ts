// What pasting sets: one thing's values on others, several things' values where they came from.
import { type Change, SceneIndex, optionsTouching, resolve, valueWithout } from '@variscen/core/looks';
import { IDENTITY, type SceneDocument } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { pasted, valuesOf } from './clipboard.ts';
import { copiedMaterials, nextCopy } from './materialNames.ts';

const d = {
  version: 1,
  meshes: [{}],
  textures: [],
  cameras: [],
  materials: [
    { name: 'Copper', baseColor: [1, 0.5, 0.3], roughness: 0.4 },
    { name: 'Celadon', baseColor: [0.4, 0.7, 0.6] },
  ],
  lights: [
    { type: 'point', color: [1, 1, 1], intensity: 20, radiusM: 0.1 },
    { type: 'sun', color: [1, 1, 1], intensity: 3, angularDiameterRad: 0.01 },
  ],
  nodes: [
    ['Lantern 1', 0],
    ['Lantern 2', 0],
    ['Sun', 1],
  ]
    .map(([path, light]) => ({ path, name: path, parent: -1, matrix: IDENTITY, light }))
    .concat(
      ['Kettle', 'Bowl'].map((path, i) => ({
        path,
        name: path,
        parent: -1,
        matrix: IDENTITY,
        parts: [{ mesh: 0, material: i }],
      })) as never,
    ),
} as unknown as SceneDocument;
const index = new SceneIndex(d);
const set = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });
const layer = (name: string, changes: readonly Change[], kind: 'base' | 'option' = 'option') => ({
  id: name,
  name,
  kind,
  changes,
});
const state = resolve(index, [
  layer('base', [set('light:Lantern 1', 'light.intensity', 5)], 'base'),
  layer('Warm', [set('light:Lantern 1', 'light.temperature', 2700), set('light:Lantern 1', 'light.intensity', 8)]),
]);

describe('pasting', () => {
  it('sets one light’s values on others, what they have in common and what differs, and nothing on things of another kind', () => {
    const copied = { from: 'Lantern 1', changes: valuesOf(index, state, ['light:Lantern 1']) };
    expect(pasted(copied, index, state, ['light:Lantern 2', 'light:Sun', 'object:Kettle'])).toEqual([
      set('light:Lantern 2', 'light.intensity', 8),
      set('light:Sun', 'light.intensity', 8),
      set('light:Lantern 2', 'light.temperature', 2700),
      set('light:Sun', 'light.temperature', 2700),
    ]);
    expect(pasted(copied, index, state, ['light:Lantern 1'])).toEqual([]);
  });
  it('sets values of several things where they came from, whatever is selected', () => {
    const changes = [set('light:Lantern 1', 'light.on', false), set('light:Lantern 2', 'light.on', false)];
    expect(pasted({ from: 'Dark', changes }, index, state, ['light:Sun'])).toEqual(changes);
    expect(
      pasted({ from: 'Elsewhere', changes: [...changes, set('light:Gone', 'light.on', false)] }, index, state, []),
    ).toEqual(changes);
  });
});

describe('a value', () => {
  it('would be what the layer before set, or the scene’s own', () => {
    expect(valueWithout(state, state.provenance('light:Lantern 1', 'light.intensity')!)).toBe(5);
    expect(valueWithout(state, state.provenance('light:Lantern 1', 'light.temperature')!)).toBe(6500);
  });
  it('is found in the options that change its thing', () => {
    const options = [
      { name: 'Warm', changes: [set('light:Lantern 1', 'light.on', true)] },
      { name: 'Blue', changes: [set('object:Kettle', 'object.shown', false)] },
    ];
    expect(optionsTouching(options, ['object:Kettle', 'material:Copper']).map((o) => o.name)).toEqual(['Blue']);
  });
  it('of a copied material is its original’s until the copy says otherwise', () => {
    const s = resolve(index, [
      layer('x', [
        set('object:Kettle', 'object.material', 'Copper#2'),
        set('material:Copper', 'material.roughness', 0.9),
        set('material:Copper#2', 'material.baseColor', [0, 0, 1]),
      ]),
    ]);
    expect(s.unmatched).toEqual([]);
    expect([
      s.get('material:Copper#2', 'material.baseColor'),
      s.get('material:Copper', 'material.baseColor'),
      s.get('material:Copper#2', 'material.roughness'),
    ]).toEqual([[0, 0, 1], [1, 0.5, 0.3], 0.9]);
    expect(
      copiedMaterials({
        base: [set('object:Kettle', 'object.material', 'Copper#2')],
        options: [],
        patches: [],
        pending: [{ destination: 'base', changes: [set('material:Celadon#3', 'material.roughness', 0)] }],
      } as never),
    ).toEqual(['Copper#2', 'Celadon#3']);
    expect([
      nextCopy('Copper', ['Copper#2']),
      nextCopy('Copper#2', ['Copper#2', 'Copper#3']),
      nextCopy('Celadon', []),
    ]).toEqual(['Copper#3', 'Copper#4', 'Celadon#2']);
  });
  it('is called by its thing, after the thing’s group where several are called the same', () => {
    const flames = new SceneIndex({
      ...d,
      nodes: ['A', 'A/Flame', 'B', 'B/Flame', 'B/Shade'].map((path) => ({
        path,
        name: path,
        parent: -1,
        matrix: IDENTITY,
      })),
    } as unknown as SceneDocument);
    expect(['object:A/Flame', 'object:B/Flame', 'object:B/Shade', 'grade'].map((t) => flames.label(t))).toEqual([
      'A / Flame',
      'B / Flame',
      'Shade',
      'Grade',
    ]);
  });
});
