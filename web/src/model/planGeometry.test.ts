import { SceneIndex, resolve } from '@variscen/core/looks';
import { type CameraSettings, type SceneDocument, cameraForScene, lookAt } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { cone, distanceAt, fitted, hull, onPlane, planScene } from './planGeometry.ts';

const at = (x: number, y: number, z: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
const box = (path: string, x: number, y: number, z: number) => ({
  path,
  name: path,
  parent: -1,
  matrix: at(x, y, z),
  parts: [{ mesh: 0, material: 0 }],
});
const document = {
  version: 1,
  nodes: [box('Cup', 0, 0, 0), box('Crate', 0, 0, -8), box('Post', 0, 0, 4.2), box('Aside', 50, 0, 0)],
  meshes: [{ min: [-0.5, -0.5, -0.5], max: [0.5, 0.5, 0.5], closed: true }],
  materials: [{ name: 'Clay' }],
  textures: [],
  lights: [],
  cameras: [],
} as unknown as SceneDocument;
const camera: CameraSettings = {
  ...cameraForScene({ ...document, nodes: [] }),
  matrix: lookAt([0, 0, 5], [0, 0, 0]),
  nearM: 1.5,
  farM: 10,
  widthPx: 100,
  heightPx: 100,
  focalLengthMm: 18,
};
const state = (...hidden: string[]) =>
  resolve(new SceneIndex(document), [
    {
      id: 'base',
      name: '',
      kind: 'base',
      changes: hidden.map((p) => ({ target: `object:${p}`, property: 'object.shown', value: false })),
    },
  ]);
const states = (c: CameraSettings | undefined, ...hidden: string[]) =>
  Object.fromEntries(
    planScene(document, state(...hidden), 'top', c).outlines.map((o) => [document.nodes[o.node]!.name, o.state]),
  );

describe('the plan view', () => {
  it('tells what the planes and the frame leave out', () => {
    expect(states(camera)).toEqual({ Cup: 'kept', Crate: 'beyond', Post: 'before', Aside: 'off-frame' });
    expect(states(camera, 'Cup')).toMatchObject({ Cup: 'hidden' });
    expect(states(undefined)).toEqual({ Cup: 'kept', Crate: 'kept', Post: 'kept', Aside: 'kept' });
  });
  it('knows along the camera which bodies a plane could cut, and only those in its frame', () => {
    expect(planScene(document, state('Post'), 'top', camera).spans).toEqual([
      { node: 0, fromM: expect.closeTo(4.5), toM: expect.closeTo(5.5) },
      { node: 1, fromM: expect.closeTo(12.5), toM: expect.closeTo(13.5) },
    ]);
  });
  it('draws outlines from above, from the front and from the side', () => {
    expect(onPlane('top', [1, 2, 3])).toEqual([1, -3]);
    expect(onPlane('front', [1, 2, 3])).toEqual([1, 2]);
    expect(onPlane('side', [1, 2, 3])).toEqual([-3, 2]);
    expect(
      hull([
        [0, 0],
        [2, 0],
        [1, 1],
        [2, 2],
        [0, 2],
      ]),
    ).toEqual([
      [0, 0],
      [2, 0],
      [2, 2],
      [0, 2],
    ]);
  });
  it('shows a camera’s cone as wide as its lens', () => {
    const c = cone(camera, 'top', 2); // 90°, so twice the distance across
    expect(c.eye[1]).toBeCloseTo(-5);
    expect(c.middle[1]).toBeCloseTo(-3);
    expect(Math.abs(c.ends[0][0] - c.ends[1][0])).toBeCloseTo(4);
    const shifted = cone({ ...camera, shiftX: 0.25 }, 'top', 2);
    expect((shifted.ends[0][0] + shifted.ends[1][0]) / 2).toBeCloseTo(1);
  });
  it('reads a dragged plane back as a distance, except along the line of sight', () => {
    expect(distanceAt(camera, 'top', [3, -1])).toBeCloseTo(4);
    expect(distanceAt(camera, 'front', [3, 1])).toBeUndefined();
    const c = cone(camera, 'side', 3.3);
    expect(distanceAt(camera, 'side', c.middle)).toBeCloseTo(3.3);
  });
  it('fits all of it in', () => {
    const view = fitted(planScene(document, state(), 'top', camera).outlines, [], 500, 300);
    expect(view.x).toBeCloseTo(25);
    expect(51 * view.pxPerM).toBeLessThanOrEqual(500);
  });
});
