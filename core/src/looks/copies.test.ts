// Exploded views and copies: where things are then, and what they are like.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { IDENTITY, type Matrix, type SceneDocument, worldMatrices } from '../scene/index.ts';
import { MOST_COPIES, copyPlaces } from './copies.ts';
import { inputsOf, cellHash } from './fingerprint.ts';
import { placeDocument } from './placeDocument.ts';
import { SceneIndex, type Value, faultOfValue, propertyOf } from './properties.ts';
import { type Change, resolve, setOnObjects } from './resolve.ts';

const at = (x: number, y: number, z: number): Matrix => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
const part = { parts: [{ mesh: 0, material: 0 }] };
/** A tray with a cup at each side, one of which stands in a group with its saucer; a lamp on the tray. */
const d = {
  version: 1,
  nodes: [
    { path: 'Tray', name: 'Tray', parent: -1, matrix: at(10, 0, 0) },
    { path: 'Tray/Cup', name: 'Cup', parent: 0, matrix: at(-2, 0, 0), ...part },
    { path: 'Tray/Set', name: 'Set', parent: 0, matrix: at(2, 0, 0) },
    { path: 'Tray/Set/Cup', name: 'Cup', parent: 2, matrix: at(0, 1, 0), ...part },
    { path: 'Tray/Set/Saucer', name: 'Saucer', parent: 2, matrix: at(0, -1, 0), ...part },
    { path: 'Tray/Lamp', name: 'Lamp', parent: 0, matrix: at(0, 0, 3), light: 0 },
  ],
  meshes: [{ min: [-1, -1, -1], max: [1, 1, 1] }],
  materials: [{ name: 'Clay' }, { name: 'Celadon' }],
  textures: [],
  lights: [{ type: 'point', color: [1, 1, 1], intensity: 5, radiusM: 0 }],
  cameras: [],
} as unknown as SceneDocument;
const change = (path: string, property: string, value: Value): Change => ({
  target: `object:${path}`,
  property: `object.${property}`,
  value,
});
const state = (...changes: Change[]) => resolve(new SceneIndex(d), [{ id: 'base', name: '', kind: 'base', changes }]);
const placed = (...changes: Change[]) => {
  const p = placeDocument(d, state(...changes));
  const world = worldMatrices(p.nodes);
  return new Map(p.nodes.map((n, i) => [n.path, world[i]!.slice(12, 15).map((x) => Math.round(x * 1e6) / 1e6 + 0)]));
};
const still = placed();

describe('an exploded view', () => {
  it('takes what is in a group away from its middle, and keeps groups in it whole', () => {
    const now = placed(change('Tray', 'explode', 1)); // the middle of the tray's box is at 10
    expect(now.get('Tray/Cup')).toEqual([6, 0, 0]);
    expect(now.get('Tray/Set')).toEqual([14, 0, 0]);
    expect(now.get('Tray/Set/Cup')![1]! - now.get('Tray/Set/Saucer')![1]!).toBe(2);
    expect(now.get('Tray')).toEqual(still.get('Tray'));
  });
  it('takes every object apart where that is said, or along one axis only', () => {
    const each = placed(change('Tray', 'explode', 1), change('Tray', 'explodeParts', 'each'));
    expect([each.get('Tray/Set/Cup'), each.get('Tray/Set/Saucer')]).toEqual([
      [14, 2, 0],
      [14, -2, 0],
    ]);
    expect(
      placed(
        change('Tray', 'explode', 1),
        change('Tray', 'explodeParts', 'each'),
        change('Tray', 'explodeWay', 'y'),
      ).get('Tray/Set/Cup'),
    ).toEqual([12, 2, 0]);
  });
  it('adds to what is moved by hand, and is the scene again at 0', () => {
    expect(placed(change('Tray', 'explode', 1), change('Tray/Cup', 'offset', [0, 5, 0])).get('Tray/Cup')).toEqual([
      6, 5, 0,
    ]);
    expect(placeDocument(d, state(change('Tray', 'explode', 0)))).toBe(d);
  });
  it('is for groups: a thing with nothing in it has no such value', () => {
    expect(state(change('Tray/Cup', 'explode', 1)).unmatched).toHaveLength(1);
  });
});

describe('copies', () => {
  const grid = (...more: Change[]) => [
    change('Tray/Cup', 'copyLayout', 'grid'),
    change('Tray/Cup', 'copyCount', [2, 1, 2]),
    change('Tray/Cup', 'copySpacing', [3, 0, 5]),
    ...more,
  ];
  it('in rows and grids stand apart as said, each turned further than the one before', () => {
    const now = placed(...grid());
    expect([...now].filter(([p]) => p.startsWith('Tray/Cup')).map(([p, x]) => [p, ...x])).toEqual([
      ['Tray/Cup', 8, 0, 0],
      ['Tray/Cup#2', 11, 0, 0],
      ['Tray/Cup#3', 8, 0, 5],
      ['Tray/Cup#4', 11, 0, 5],
    ]);
    expect(
      copyPlaces(state(...grid(change('Tray/Cup', 'copyTurn', [0, 10, 0]))), 'Tray/Cup').map((c) => c.place.turn[1]),
    ).toEqual([10, 20, 30]);
  });
  it('in a ring stand on one circle, evenly, the thing itself on it', () => {
    const now = placed(
      change('Tray/Cup', 'copyLayout', 'ring'),
      change('Tray/Cup', 'copyCount', [4, 1, 1]),
      change('Tray/Cup', 'ringRadius', 2),
    );
    expect(['', '#2', '#3', '#4'].map((k) => now.get(`Tray/Cup${k}`))).toEqual([
      [8, 0, 0],
      [6, 0, -2],
      [4, 0, 0],
      [6, 0, 2],
    ]);
  });
  it('of a group take all in it along, lights too, and copies within it', () => {
    const now = placed(
      change('Tray', 'copyLayout', 'grid'),
      change('Tray', 'copyCount', [1, 2, 1]),
      change('Tray', 'copySpacing', [0, 7, 0]),
      change('Tray/Set/Cup', 'copyLayout', 'grid'),
      change('Tray/Set/Cup', 'copyCount', [2, 1, 1]),
      change('Tray/Set/Cup', 'copySpacing', [1, 0, 0]),
    );
    expect([now.get('Tray#2/Lamp'), now.get('Tray/Set/Cup#2'), now.get('Tray#2/Set/Cup#2')]).toEqual([
      [10, 7, 3],
      [13, 1, 0],
      [13, 8, 0],
    ]);
  });
  it('are as their original is in the look, and each may be otherwise', () => {
    const s = state(
      ...grid(
        change('Tray/Cup', 'material', 'Celadon'),
        change('Tray/Cup#3', 'material', 'Clay'),
        change('Tray/Cup#2', 'offset', [0, 1, 0]),
      ),
    );
    expect(['', '#2', '#3'].map((k) => s.get(`object:Tray/Cup${k}`, 'object.material'))).toEqual([
      'Celadon',
      'Celadon',
      'Clay',
    ]);
    expect(s.get('object:Tray/Cup#3', 'object.offset')).toEqual([0, 0, 0]);
    const wears = setOnObjects(s, 'object.material'); // the same by the way that goes over all objects
    expect(['', '#2', '#3'].map((k) => wears(`Tray/Cup${k}`))).toEqual(['Celadon', 'Celadon', 'Clay']);
    expect([wears('Tray'), setOnObjects(s, 'object.shown')('Tray/Cup#2')]).toEqual([undefined, undefined]);
    expect(placed(...grid(change('Tray/Cup#2', 'offset', [0, 1, 0]))).get('Tray/Cup#2')).toEqual([11, 1, 0]);
    // a copy that wears what the scene's original wears is not “as the scene has it” where the original wears something
    // else
    const hash = (...c: Change[]) =>
      cellHash(inputsOf('s', {} as never, state(...grid(change('Tray/Cup', 'material', 'Celadon'), ...c))));
    expect(hash(change('Tray/Cup#3', 'material', 'Clay'))).not.toBe(hash());
  });
  it('leave every node of the scene where it was, before all copies', () => {
    fc.assert(
      fc.property(
        fc.tuple(fc.integer({ min: 1, max: 4 }), fc.integer({ min: 1, max: 3 }), fc.integer({ min: 1, max: 3 })),
        (count) => {
          const p = placeDocument(d, state(...grid(change('Tray/Cup', 'copyCount', count))));
          expect(p.nodes.slice(0, d.nodes.length)).toEqual(d.nodes);
          expect(p.nodes.length - d.nodes.length).toBe(count[0] * count[1] * count[2] - 1);
          expect(p.nodes.every((n, i) => n.parent < i)).toBe(true);
        },
      ),
    );
  });
  it('have a limit, and whole numbers', () => {
    expect(copyPlaces(state(...grid(change('Tray/Cup', 'copyCount', [1000, 1000, 1000]))), 'Tray/Cup')).toHaveLength(
      MOST_COPIES,
    );
    expect(faultOfValue(propertyOf('object.copyCount')!, [2, 1.5, 1])).toMatch(/whole numbers/);
  });
  it('of a skinned thing lie where the copies of its joints are', () => {
    const skinned = {
      ...d,
      meshes: [{ min: [-1, -1, -1], max: [1, 1, 1], deform: { skinned: true, targets: [] } }],
      skins: [{ joints: [2], inverseBind: [...IDENTITY] }],
      nodes: d.nodes.map((n) => (n.path === 'Tray/Set/Cup' ? { ...n, skin: 0 } : n)),
    } as unknown as SceneDocument;
    const s = resolve(new SceneIndex(skinned), [
      {
        id: 'b',
        name: '',
        kind: 'base',
        changes: [change('Tray/Set', 'copyLayout', 'grid'), change('Tray/Set', 'copyCount', [2, 1, 1])],
      },
    ]);
    const p = placeDocument(skinned, s);
    const copy = p.nodes.find((n) => n.path === 'Tray/Set#2/Cup')!;
    expect(p.nodes[p.skins![copy.skin!]!.joints[0]!]!.path).toBe('Tray/Set#2');
  });
});
