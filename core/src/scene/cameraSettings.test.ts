import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  IDENTITY,
  cameraForScene,
  croppedPx,
  fromSceneCamera,
  halfHeightOf,
  lensRadiusM,
  transformPoint,
} from './index.ts';

const seen = {
  projection: 'perspective',
  halfHeight: 0.4,
  nearM: 0.1,
  farM: 50,
  widthPx: 1600,
  heightPx: 900,
} as const;

describe('a camera of the scene becomes one of the project', () => {
  it('with exactly its framing', () => {
    const c = fromSceneCamera(seen, IDENTITY);
    expect(halfHeightOf(c)).toBeCloseTo(0.4, 12);
    expect(halfHeightOf(fromSceneCamera({ ...seen, widthPx: 900, heightPx: 1600 }, IDENTITY))).toBeCloseTo(0.4, 12);
    expect(c.focalLengthMm).toBeCloseTo(18 / ((0.4 * 16) / 9), 9);
    expect(halfHeightOf(fromSceneCamera({ ...seen, projection: 'orthographic', halfHeight: 3 }, IDENTITY))).toBe(3);
  });
  it('opens its lens by its f-stop, and not in a parallel view', () => {
    const c = fromSceneCamera({ ...seen, fStop: 2.8, focusDistanceM: 2 }, IDENTITY);
    expect(lensRadiusM(c)).toBeCloseTo(c.focalLengthMm / 1000 / 5.6, 12);
    expect([lensRadiusM({ ...c, fStop: null }), lensRadiusM({ ...c, projection: 'orthographic' })]).toEqual([0, 0]);
  });
  it('or is made to see all that there is', () => {
    const d = {
      version: 1 as const,
      nodes: [
        {
          path: 'a',
          name: 'a',
          parent: -1,
          matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 40, 2, -7, 1],
          parts: [{ mesh: 0, material: 0 }],
        },
      ],
      meshes: [
        {
          name: 'm',
          blob: '',
          vertices: 3,
          triangles: 1,
          normals: false,
          uv0: false,
          uv1: false,
          colors: false,
          min: [-1, -2, -3] as const,
          max: [1, 2, 3] as const,
          accelerationBytes: 0,
        },
      ],
      materials: [],
      textures: [],
      lights: [],
      cameras: [],
    };
    const c = cameraForScene(d);
    const m = c.matrix;
    const half = halfHeightOf(c);
    const wide = (half * c.widthPx) / c.heightPx;
    for (let i = 0; i < 8; i++) {
      const p = transformPoint(d.nodes[0]!.matrix, [i & 1 ? 1 : -1, i & 2 ? 2 : -2, i & 4 ? 3 : -3]);
      const along = (k: number) => [0, 1, 2].reduce((s, x) => s + (p[x]! - m[12 + x]!) * m[k * 4 + x]!, 0);
      const z = -along(2);
      expect(Math.abs(along(0)) / z).toBeLessThan(wide);
      expect(Math.abs(along(1)) / z).toBeLessThan(half);
      expect(z).toBeGreaterThan(c.nearM);
      expect(z).toBeLessThan(c.farM);
    }
    expect(cameraForScene({ ...d, nodes: [] }).matrix.every(Number.isFinite)).toBe(true);
  });
});

describe('the part of a frame that is rendered', () => {
  const frame = fc.record({ widthPx: fc.integer({ min: 1, max: 5000 }), heightPx: fc.integer({ min: 1, max: 5000 }) });
  const percent = fc.double({ min: 0, max: 100, noNaN: true });
  it('is all of it without a crop', () => {
    expect(croppedPx({ widthPx: 300, heightPx: 200 }, undefined)).toEqual({
      left: 0,
      top: 0,
      widthPx: 300,
      heightPx: 200,
    });
  });
  it('lies in the frame and has a pixel, whatever is asked for', () =>
    fc.assert(
      fc.property(frame, percent, percent, percent, percent, (f, a, b, c, d) => {
        const r = croppedPx(f, {
          left: Math.min(a, b),
          right: Math.max(a, b),
          top: Math.min(c, d),
          bottom: Math.max(c, d),
        });
        expect([
          r.left >= 0,
          r.top >= 0,
          r.widthPx >= 1,
          r.heightPx >= 1,
          r.left + r.widthPx <= f.widthPx,
          r.top + r.heightPx <= f.heightPx,
        ]).toEqual([true, true, true, true, true, true]);
      }),
    ));
  it('is where it is said to be, to the pixel', () => {
    expect(croppedPx({ widthPx: 200, heightPx: 100 }, { left: 10, right: 60, top: 50, bottom: 100 })).toEqual({
      left: 20,
      top: 50,
      widthPx: 100,
      heightPx: 50,
    });
  });
});
