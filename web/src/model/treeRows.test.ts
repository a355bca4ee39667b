import { SceneIndex, resolve } from '@variscen/core/looks';
import type { SceneDocument } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { clicked, inverse, sameMaterial, withChildren } from './selection.ts';
import { EVERYTHING, type TreeFilter, hierarchyOf, layersOf, treeRows } from './treeRows.ts';

const node = (path: string, parent: number, more: object = {}) => ({
  path,
  name: path.split('/').at(-1)!,
  parent,
  matrix: [],
  ...more,
});
const part = (material: number) => ({ parts: [{ mesh: 0, material }] });
const scene = {
  nodes: [
    node('Stall', -1),
    node('Stall/Counter', 0, { layer: 'Ware' }),
    node('Stall/Counter/Cup', 1, part(0)),
    node('Lane', -1),
    node('Lane/Cup stand', 3, part(1)),
    node('Lane/Lamp', 3, { light: 0 }),
  ],
  meshes: [{}],
  materials: [{ name: 'Clay' }, { name: 'Wood' }],
  lights: [{}],
} as unknown as SceneDocument;
const h = hierarchyOf(scene);
const rows = (open: number[], f: Partial<TreeFilter> = {}) =>
  treeRows(scene, h, new Set(open), { ...EVERYTHING, ...f }, layersOf(scene)).map(
    (r) => `${' '.repeat(r.depth)}${scene.nodes[r.node]!.name}`,
  );

describe('the tree', () => {
  it('shows what is open, in scene order', () => {
    expect(rows([])).toEqual(['Stall', 'Lane']);
    expect(rows([0, 1])).toEqual(['Stall', ' Counter', '  Cup', 'Lane']);
  });
  it('finds by name, narrowed by words of the path', () => {
    expect(rows([], { find: 'cup' })).toEqual(['Cup', 'Cup stand']);
    expect(rows([], { find: 'lane cup' })).toEqual(['Cup stand']);
  });
  it('filters by kind, material, layer and any other question, together', () => {
    expect(rows([], { kinds: ['light'] })).toEqual(['Lamp']);
    expect(rows([], { kinds: ['light', 'group'] })).toEqual(['Stall', 'Counter', 'Lane', 'Lamp']);
    expect(rows([], { materials: ['Wood'] })).toEqual(['Cup stand']);
    expect(rows([], { layers: ['Ware'] })).toEqual(['Counter', 'Cup']);
    expect(rows([], { find: 'cup', only: (n) => n === 4 })).toEqual(['Cup stand']);
  });
  it('counts the objects below each group', () => {
    expect([...h.below]).toEqual([1, 1, 0, 2, 0, 0]);
  });
});

describe('selecting', () => {
  const state = resolve(new SceneIndex(scene), [
    {
      id: 'base',
      name: '',
      kind: 'base',
      changes: [{ target: 'object:Stall/Counter/Cup', property: 'object.material', value: 'Wood' }],
    },
  ]);
  it('takes what is in a group along, and turns around without it', () => {
    expect(withChildren(h, [0])).toEqual([0, 1, 2]);
    expect(inverse(scene, h, [0])).toEqual([4, 5]);
  });
  it('finds what wears the same in this look', () => {
    expect(sameMaterial(scene, h, state, [4])).toEqual([2, 4]);
    expect(sameMaterial(scene, h, resolve(new SceneIndex(scene), []), [3])).toEqual([4]);
  });
  it('goes by clicks: alone, in and out, and through to another row', () => {
    const list = [0, 3, 4, 5];
    expect(clicked(list, [0], 0, 4, 'alone')).toEqual([4]);
    expect(clicked(list, [0], 0, 4, 'more')).toEqual([0, 4]);
    expect(clicked(list, [0, 4], 4, 4, 'more')).toEqual([0]);
    expect(clicked(list, [0], 0, 4, 'through')).toEqual([0, 3, 4]);
    expect(clicked(list, [9], 9, 4, 'through')).toEqual([4]);
  });
});
