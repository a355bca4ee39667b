import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Matrix, type SceneDocument, lookAt, multiply, transformPoint, worldMatrices } from '../scene/index.ts';
import { placeDocument } from './placeDocument.ts';
import { middles } from './placement.ts';
import { SceneIndex, faultOfValue, propertyOf } from './properties.ts';
import { resolve, valueText } from './resolve.ts';

const at = (x: number, y: number, z: number): Matrix => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
/** A shelf, turned and of another scale, with a cup whose shape lies off its own origin, and a lamp in the cup. */
const scene = (
  shelf: Matrix = multiply(lookAt([2, 1, 0], [3, 1, 1]), [0.5, 0, 0, 0, 0, 0.5, 0, 0, 0, 0, 0.5, 0, 0, 0, 0, 1]),
) =>
  ({
    version: 1,
    nodes: [
      { path: 'Shelf', name: 'Shelf', parent: -1, matrix: shelf },
      { path: 'Shelf/Cup', name: 'Cup', parent: 0, matrix: at(1, 0, 0), parts: [{ mesh: 0, material: 0 }] },
      { path: 'Shelf/Cup/Lamp', name: 'Lamp', parent: 1, matrix: at(0, 1, 0), light: 0 },
      { path: 'Jar', name: 'Jar', parent: -1, matrix: at(9, 0, 0), parts: [{ mesh: 0, material: 0 }] },
    ],
    meshes: [{ min: [4, 0, 0], max: [6, 2, 2] }],
    materials: [{ name: 'Clay' }],
    textures: [],
    lights: [{ type: 'point' }],
    cameras: [],
  }) as unknown as SceneDocument;
const state = (d: SceneDocument, values: Record<string, Record<string, readonly number[]>>) =>
  resolve(new SceneIndex(d), [
    {
      id: 'base',
      name: '',
      kind: 'base',
      changes: Object.entries(values).flatMap(([path, set]) =>
        Object.entries(set).map(([k, value]) => ({
          target: `object:${path}`,
          property: `object.${k}`,
          value: value as never,
        })),
      ),
    },
  ]);
const placed = (d: SceneDocument, values: Record<string, Record<string, readonly number[]>>) =>
  worldMatrices(placeDocument(d, state(d, values)).nodes);
const close = (a: readonly number[], b: readonly number[]) => a.forEach((x, i) => expect(x).toBeCloseTo(b[i]!, 9));

describe('placement in a look', () => {
  const d = scene();
  const world = worldMatrices(d.nodes);
  const middle = middles(d, world)(1);
  const middleNow = (w: readonly Matrix[]) => transformPoint(w[1]!, [5, 1, 1]);
  it('moves by metres of the world, whatever its parents are, and takes what is in it along', () => {
    const w = placed(d, { 'Shelf/Cup': { offset: [0.25, 0, -1] } });
    for (const i of [1, 2]) close(w[i]!.slice(12, 15), [world[i]![12]! + 0.25, world[i]![13]!, world[i]![14]! - 1]);
    expect(w[0]).toEqual(world[0]);
    expect(w[3]).toEqual(world[3]);
  });
  it('turns and scales about its middle, which stays', () => {
    for (const set of [{ turn: [0, 90, 0] }, { scale: [2, 2, 2] }, { turn: [20, -40, 70], scale: [1, 3, 0.5] }])
      close(middleNow(placed(d, { 'Shelf/Cup': set })), middle);
    const turned = placed(d, { Jar: { turn: [0, 90, 0] } })[3]!; // X goes to −Z
    close([turned[0]!, turned[1]!, turned[2]!], [0, 0, -1]);
    close([placed(d, { Jar: { scale: [3, 1, 1] } })[3]![0]!], [3]);
  });
  it('goes on within a group that is placed too', () => {
    const w = placed(d, { Shelf: { offset: [1, 0, 0] }, 'Shelf/Cup': { offset: [0, 2, 0] } });
    close(middleNow(w), [middle[0] + 1, middle[1] + 2, middle[2]]);
  });
  it('is the scene itself where nothing is moved', () => {
    expect(placeDocument(d, state(d, {}))).toBe(d);
    expect(placeDocument(d, state(d, { Jar: { offset: [0, 0, 0], scale: [1, 1, 1] } }))).toBe(d);
  });
  it('undoes itself: moved by v and then by −v is where it was', () => {
    const v = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -50, max: 50, noNaN: true }))) as fc.Arbitrary<
      [number, number, number]
    >;
    fc.assert(
      fc.property(v, (offset) => {
        const there = placeDocument(d, state(d, { 'Shelf/Cup': { offset } }));
        const back = worldMatrices(
          placeDocument(there, state(there, { 'Shelf/Cup': { offset: offset.map((x) => -x) } })).nodes,
        );
        back.forEach((m, i) => m.forEach((x, k) => expect(x).toBeCloseTo(world[i]![k]!, 7)));
      }),
    );
  });
  it('still fits when a newer file puts the thing elsewhere', () => {
    const moved = scene(at(-3, 0, 0));
    const w = placed(moved, { 'Shelf/Cup': { offset: [0, 1, 0] } });
    close(w[1]!.slice(12, 15), [-2, 1, 0]);
  });
  it('knows the middle of a group by all that is in it, and of what has no shape by its place', () => {
    const flat = scene(at(0, 0, 0));
    const of = middles(flat, worldMatrices(flat.nodes));
    close(of(0), [6, 1, 1]); // the cup alone: from 5 to 7
    close(of(1), [6, 1, 1]);
    close(of(2), [1, 1, 0]);
    close(of(3), [14, 1, 1]);
  });
  it('has its range, and reads in its unit', () => {
    const offset = propertyOf('object.offset')!;
    const scale = propertyOf('object.scale')!;
    expect(faultOfValue(offset, [1, 2, 3])).toBeUndefined();
    expect(faultOfValue(scale, [1, 0, 1])).toMatch(/from 0.001/);
    expect(faultOfValue(offset, [1, 2])).toMatch(/three numbers/);
    expect(valueText(offset, [0.25, 0, -1], 'm')).toBe('0.25, 0, -1 m');
  });
});
