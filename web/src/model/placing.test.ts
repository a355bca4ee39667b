import { SceneIndex, resolve } from '@variscen/core/looks';
import { IDENTITY, type SceneDocument } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { dropChanges, droppable, materialChanges, placementChanges } from './placing.ts';

const part = { mesh: 0, material: 0 };
const node = (path: string, parent: number, more: object) => ({
  path,
  name: path.split('/').at(-1)!,
  parent,
  matrix: IDENTITY,
  ...more,
});
const document = {
  version: 1,
  nodes: [
    node('Shelf', -1, {}),
    node('Shelf/Kettle', 0, { parts: [part] }),
    node('Shelf/Jar', 0, { parts: [part, { mesh: 0, material: 1 }] }),
    node('Lamp', -1, { light: 0 }),
  ],
  meshes: [{ name: 'Kettle', vertices: 3, triangles: 1, min: [0, 0, 0], max: [1, 1, 1] }],
  materials: [{ name: 'Copper' }, { name: 'Glass' }],
  textures: [],
  cameras: [],
  lights: [{ type: 'point', color: [1, 1, 1], intensity: 1, radiusM: 0 }],
} as unknown as SceneDocument;
const state = resolve(new SceneIndex(document), []);
const [SHELF, KETTLE, JAR, LAMP] = [0, 1, 2, 3];
const KETTLE_TARGET = 'object:Shelf/Kettle';
const STILL = { offset: [0, 0, 0], turn: [0, 0, 0], scale: [1, 1, 1] } as const;

describe('objects put by hand', () => {
  it('are changed only in what differs', () => {
    const moved = { ...STILL, offset: [0, 0.5, 0] } as never;
    expect(placementChanges(document, state, [KETTLE], [moved])).toEqual([
      { target: KETTLE_TARGET, property: 'object.offset', value: [0, 0.5, 0] },
    ]);
    expect(placementChanges(document, state, [KETTLE], [STILL as never])).toEqual([]);
  });
});

describe('a material assigned to objects', () => {
  it('goes to those that can have it and have another', () => {
    const targets = [KETTLE_TARGET, 'object:Shelf', 'object:Shelf/Jar'];
    expect(materialChanges(state, targets, 'Glass')).toEqual([
      { target: KETTLE_TARGET, property: 'object.material', value: 'Glass' },
    ]);
    expect(materialChanges(state, [KETTLE_TARGET], 'Copper')).toEqual([]);
  });
  it('is refused where none of them can have a single one', () => {
    expect(materialChanges(state, ['object:Shelf', 'object:Shelf/Jar', 'light:Lamp'], 'Glass')).toBeNull();
  });
});

describe('dropped objects', () => {
  it('are those on top of the selection, without lights', () => {
    expect(droppable(document, [SHELF!, KETTLE!, LAMP!])).toEqual([SHELF]);
    expect(droppable(document, [KETTLE!, JAR!])).toEqual([KETTLE, JAR]);
  });
  it('go down by what is below them; what stands, or has nothing below, stays', () => {
    expect(dropChanges(document, state, [KETTLE!, JAR!, SHELF!], [0.25, 0, null])).toEqual([
      { target: KETTLE_TARGET, property: 'object.offset', value: [0, -0.25, 0] },
    ]);
  });
});
