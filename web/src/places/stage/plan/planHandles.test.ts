import { type CameraSettings, type SceneDocument, cameraForScene } from '@variscen/core/scene';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { toMetres, toPxOf } from './planDrawing.ts';
import { HANDLES, distancesOf, gripAt, handleAt, withDistance } from './planHandles.ts';

const document = { version: 1, nodes: [], meshes: [], materials: [], textures: [], cameras: [], lights: [] };
const camera: CameraSettings = {
  ...cameraForScene(document as unknown as SceneDocument),
  matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
  nearM: 0.5,
  farM: 20,
  depthRangeM: { near: 2, far: 9 },
};
const size = { width: 400, height: 300 };
const view = { x: 0, y: 5, pxPerM: 12 };

describe('handles of the plan', () => {
  it('keep planes and ranges in their order, wherever a hand drags them', () => {
    const distance = fc.double({ min: -50, max: 500, noNaN: true });
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom(...HANDLES), distance), { maxLength: 12 }), (drags) => {
        const c = drags.reduce((at, [handle, d]) => withDistance(at, handle, d), camera);
        expect(c.nearM).toBeGreaterThan(0);
        expect(c.farM).toBeGreaterThan(c.nearM);
        const { depthNear, depthFar } = distancesOf(c);
        expect(depthNear).toBeGreaterThanOrEqual(0);
        expect(depthFar).toBeGreaterThan(depthNear);
      }),
    );
  });

  it('move one thing and leave the others, and a range that is not set begins at the planes', () => {
    const { depthRangeM: _, ...plain } = camera;
    expect(withDistance(plain, 'depthFar', 7).depthRangeM).toEqual({ near: 0.5, far: 7 });
    expect(withDistance(camera, 'near', 3)).toEqual({ ...camera, nearM: 3 });
  });

  it('are taken where they are drawn, and nowhere else', () => {
    const toPx = toPxOf(size, view);
    for (const handle of HANDLES) {
      const grip = gripAt(camera, 'top', handle, distancesOf(camera)[handle], toPx);
      expect(handleAt(camera, 'top', grip, toPx)).toBe(handle);
    }
    expect(handleAt(camera, 'top', [5, 5], toPx)).toBeNull();
    expect(handleAt(camera, 'front', [200, 150], toPx)).toBeNull(); // it looks along this view
  });

  it('lie where pixels and metres agree', () => {
    const coordinate = fc.double({ min: -40, max: 40, noNaN: true });
    fc.assert(
      fc.property(coordinate, coordinate, (x, y) => {
        const [bx, by] = toMetres(size, view, toPxOf(size, view)([x, y]));
        expect(bx).toBeCloseTo(x, 6);
        expect(by).toBeCloseTo(y, 6);
      }),
    );
  });
});
