import { SceneIndex, resolve } from '@variscen/core/looks';
import { IDENTITY, type SceneDocument } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { objectGroups } from './objectGroups.ts';

const at = (parent: number, ...materials: number[]) => ({
  parent,
  matrix: IDENTITY,
  ...(materials.length && { parts: materials.map((material) => ({ mesh: 0, material })) }),
});
const scaled = (by: number) => [by, 0, 0, 0, 0, by, 0, 0, 0, 0, by, 0, 0, 0, 0, 1];
const document = {
  version: 1,
  meshes: [{ name: 'box', min: [-1, -1, -1], max: [1, 1, 1] }],
  textures: [],
  cameras: [],
  lights: [],
  materials: ['Tile', 'Copper', 'Spare'].map((name) => ({ name, textures: {} })),
  nodes: [
    { path: 'Lane', name: 'Lane', ...at(-1) },
    { path: 'Lane/House 10', name: 'House 10', ...at(0) },
    { path: 'Lane/House 10/Roof', name: 'Roof', ...at(1, 0) },
    { path: 'Lane/House 2', name: 'House 2', ...at(0, 0, 1), matrix: scaled(5) },
    { path: 'Kettle', name: 'Kettle', ...at(-1, 1), matrix: scaled(0.1) },
  ],
} as unknown as SceneDocument;
const scene = new SceneIndex(document);
const groups = (...changes: readonly { target: string; property: string; value: string }[]) =>
  objectGroups(document, resolve(scene, [{ id: 'b', name: '', kind: 'base', changes }]), [
    { name: 'The lane', paths: ['Lane/House 10', 'Kettle'] },
    { name: 'Gone', paths: ['Lane/House 99'] },
  ]).map((g) => [g.kind, g.name, [...g.objects]]);

describe('objects are picked together', () => {
  it('by named selections with all that is in them, by size, by what they wear, by what they stand in', () => {
    expect(groups()).toEqual([
      ['Named selections', 'The lane', [2, 4]],
      ['Sizes', '10 cm to 1 m', [4]],
      ['Sizes', '1 to 10 m', [2]],
      ['Sizes', 'Over 10 m', [3]],
      ['Materials', 'Copper', [3, 4]],
      ['Materials', 'Tile', [2, 3]],
      ['Groups', 'Lane', [2, 3]],
      ['Groups', 'Lane/House 10', [2]],
    ]);
  });
  it('by what they wear in this look', () => {
    const worn = groups({ target: 'object:Kettle', property: 'object.material', value: 'Spare' });
    expect(worn.filter(([kind]) => kind === 'Materials')).toEqual([
      ['Materials', 'Copper', [3]],
      ['Materials', 'Spare', [4]],
      ['Materials', 'Tile', [2, 3]],
    ]);
  });
});
