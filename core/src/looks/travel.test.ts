// Options carried to a scene with other names.
import { describe, expect, it } from 'vitest';
import { IDENTITY, type SceneDocument } from '../scene/index.ts';
import { SceneIndex } from './properties.ts';
import { type Change, resolve } from './resolve.ts';
import { bringLooks, matchLooks, packLooks } from './travel.ts';

type Thing = readonly [path: string, material?: number | 'light'];
const scene = (materials: readonly string[], things: readonly Thing[]): SceneIndex => {
  const paths = things.map(([p]) => p);
  return new SceneIndex({
    version: 1,
    meshes: [{}],
    textures: [],
    cameras: [],
    lights: [{ type: 'point', color: [1, 1, 1], intensity: 20, radiusM: 0.1 }],
    materials: materials.map((name) => ({ name })),
    nodes: things.map(([path, m]) => ({
      path,
      name: path.split('/').at(-1)!,
      parent: paths.indexOf(path.split('/').slice(0, -1).join('/')),
      matrix: IDENTITY,
      ...(m === 'light' ? { light: 0 } : m !== undefined && { parts: [{ mesh: 0, material: m }] }),
    })),
  } as unknown as SceneDocument);
};
const change = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });
const HOME = scene(
  ['Copper', 'Celadon'],
  [['Stall'], ['Stall/Kettle', 0], ['Stall/Bowl', 1], ['Stall/Lamp', 'light'], ['Shelf'], ['Shelf/Lamp', 'light']],
);
const option = (facet: 'lighting' | 'materials' | 'visibility' | 'placement' | 'grade', ...changes: Change[]) => ({
  facet,
  name: 'Evening',
  notes: 'as drawn',
  changes,
});
const has = () => true;
const found = (m: ReturnType<typeof matchLooks>) => Object.fromEntries(m.things.map((t) => [t.target, [t.to, t.how]]));

describe('options on their way', () => {
  it('find things by path, by the only name, by the end of the path among several, and materials by their name', () => {
    const there = scene(
      ['copper', 'Celadon'],
      [
        ['Fair'],
        ['Fair/kettle', 0],
        ['Fair/Stall'],
        ['Fair/Stall/Lamp', 'light'],
        ['Fair/Shelf'],
        ['Fair/Shelf/Lamp', 'light'],
        ['Fair/Jug', 1],
      ],
    );
    const file = packLooks(
      'Harvest fair',
      [
        option('visibility', change('object:Stall/Kettle', 'object.shown', false)),
        option('lighting', change('light:Stall/Lamp', 'light.on', false)),
        option(
          'materials',
          change('material:Copper', 'material.roughness', 0.1),
          change('object:Stall/Bowl', 'object.material', 'Copper'),
        ),
        option('grade', change('grade', 'grade.exposure', 1)),
      ],
      HOME,
    );
    expect(found(matchLooks(file, there, {}, has))).toEqual({
      'object:Stall/Kettle': ['object:Fair/kettle', 'name'],
      'light:Stall/Lamp': ['light:Fair/Stall/Lamp', 'name'],
      'material:Copper': ['material:copper', 'name'],
      'object:Stall/Bowl': ['object:Fair/Jug', 'material'],
      grade: ['grade', 'single'],
    });
    expect(matchLooks(file, HOME, {}, has).things.every((t) => t.how === 'path' || t.how === 'single')).toBe(true);
  });
  it('offer what they cannot tell apart, and take a hand’s word for it', () => {
    const two = scene([], [['A'], ['A/Lamp', 'light'], ['B'], ['B/Lamp', 'light']]);
    const file = packLooks('x', [option('lighting', change('light:Stall/Lamp', 'light.on', false))], HOME);
    const [lamp] = matchLooks(file, two, {}, has).things;
    expect(lamp).toMatchObject({ to: null, how: null, candidates: ['light:A/Lamp', 'light:B/Lamp'] });
    expect(matchLooks(file, two, { 'light:Stall/Lamp': 'light:B/Lamp' }, has).things[0]).toMatchObject({
      to: 'light:B/Lamp',
      how: 'hand',
    });
    expect(matchLooks(file, two, { 'light:Stall/Lamp': 'light:Nowhere' }, has).things[0]!.to).toBeNull();
  });
  it('come as they are for the other scene, what is worn and what is of copies with them; the rest is left out, or waits', () => {
    const there = scene(['Old copper', 'Celadon'], [['Kettle', 0]]);
    const file = packLooks(
      'x',
      [
        option(
          'materials',
          change('object:Stall/Kettle', 'object.material', 'Celadon'),
          change('object:Stall/Kettle#3', 'object.material', 'Copper'),
          change('object:Stall/Bowl', 'object.drawn', 'clay'),
        ),
        option('grade'),
      ],
      HOME,
    );
    const match = matchLooks(file, there, { 'material:Copper': 'material:Old copper', 'object:Stall/Bowl': null }, has);
    const { options, left } = bringLooks(file, match, { keepUnmatched: false });
    expect(options[0]!.changes).toEqual([
      change('object:Kettle', 'object.material', 'Celadon'),
      change('object:Kettle#3', 'object.material', 'Old copper'),
    ]);
    expect(left).toBe(1);
    expect(bringLooks(file, match, { keepUnmatched: true, only: [0] }).options.map((o) => o.changes.at(-1))).toEqual([
      change('object:Stall/Bowl', 'object.drawn', 'clay'),
    ]);
    expect(
      resolve(there, [{ id: 'o', name: 'o', kind: 'option', facet: 'materials', changes: options[0]!.changes }])
        .unmatched,
    ).toEqual([]);
  });
  it('bring lights along, and aim them at what the things are here', () => {
    const there = scene(['Clay'], [['Fair'], ['Fair/kettle', 0]]);
    const key = 'light:+spot/Key';
    const [added, aim] = [change(key, 'light.added', true), change(key, 'light.aimAt', 'Stall/Kettle')];
    const file = packLooks('x', [option('lighting', added, aim)], HOME);
    const match = matchLooks(file, there, {}, has);
    expect(found(match)).toEqual({ [key]: [key, 'path'], 'object:Stall/Kettle': ['object:Fair/kettle', 'name'] });
    const brought = bringLooks(file, match, { keepUnmatched: false }).options[0]!.changes;
    expect(brought).toEqual([added, change(key, 'light.aimAt', 'Fair/kettle')]);
    const nothing = matchLooks(file, scene([], [['Fair']]), {}, has);
    expect(bringLooks(file, nothing, { keepUnmatched: false })).toMatchObject({
      options: [{ changes: [added] }],
      left: 1,
    });
  });
  it('say which maps, images and LUTs are not here', () => {
    const hash = 'd'.repeat(64);
    const file = packLooks(
      'x',
      [
        option('grade', change('grade', 'grade.lut', `lut:${hash}:33:night.cube`)),
        option('materials', change('material:Copper', 'material.baseMap', `image:${hash}:8x8:image/png:bark.png`)),
      ],
      HOME,
    );
    expect(matchLooks(file, HOME, {}, () => false).missing).toEqual(['night.cube', 'bark.png']);
    expect(matchLooks(file, HOME, {}, has).missing).toEqual([]);
  });
});
