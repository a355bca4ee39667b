import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  type CameraSettings,
  IDENTITY,
  type SceneDocument,
  halfHeightOf,
  lookAt,
  worldMatrices,
} from '../scene/index.ts';
import { cullOffFrame, framePlanes, outside } from './frustum.ts';

const camera = (cullMarginPct: number | null, extra: Partial<CameraSettings> = {}): CameraSettings => ({
  matrix: IDENTITY,
  projection: 'perspective',
  widthPx: 1600,
  heightPx: 900,
  sensorWidthMm: 36,
  focalLengthMm: 35,
  orthoHalfHeightM: 1,
  nearM: 0.1,
  farM: 100,
  focusDistanceM: 3,
  fStop: null,
  cullMarginPct,
  ...extra,
});
const at = (x: number, y: number, z: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
const mesh = {
  name: 'box',
  blob: '',
  vertices: 8,
  triangles: 12,
  normals: false,
  uv0: false,
  uv1: false,
  colors: false,
  min: [-0.5, -0.5, -0.5],
  max: [0.5, 0.5, 0.5],
  accelerationBytes: 0,
} as const;
const scene = (...places: number[][]): SceneDocument => ({
  version: 1,
  meshes: [mesh],
  materials: [],
  textures: [],
  lights: [],
  cameras: [],
  nodes: places.map((matrix, i) => ({
    path: `${i}`,
    name: `${i}`,
    parent: -1,
    matrix,
    parts: [{ mesh: 0, material: 0 }],
  })),
});
const verdicts = (d: SceneDocument, c: CameraSettings, emits = (_: number) => false, shown = (_: number) => true) =>
  cullOffFrame({ document: d, world: worldMatrices(d.nodes), camera: c, emits, shown }).map((v) => v.reason);

describe('culling by frame', () => {
  it('keeps what is in the frame and drops what is beside, above or behind', () => {
    expect(verdicts(scene(at(0, 0, -5), at(30, 0, -5), at(0, 30, -5), at(0, 0, 5), at(2.9, 0, -5)), camera(0))).toEqual(
      ['in-frame', 'off-frame', 'off-frame', 'off-frame', 'in-frame'],
    );
  });
  it('is off without a margin, and always keeps what gives light', () => {
    expect(verdicts(scene(at(30, 0, -5)), camera(null))).toEqual(['not-culled']);
    expect(verdicts(scene(at(30, 0, -5)), camera(0), () => true)).toEqual(['gives-light']);
  });
  it('says that a hidden object is hidden, not culled', () => {
    expect(
      verdicts(
        scene(at(0, 0, -5)),
        camera(0),
        () => false,
        () => false,
      ),
    ).toEqual(['hidden']);
  });
  it('a wider margin keeps more', () => {
    const d = scene(at(4, 0, -5));
    expect([verdicts(d, camera(0)), verdicts(d, camera(50))]).toEqual([['off-frame'], ['in-frame']]);
  });
  it('follows the lens shift', () => {
    const d = scene(at(4, 0, -5), at(-2.5, 0, -5));
    expect([verdicts(d, camera(0)), verdicts(d, camera(0, { shiftX: 0.5 }))]).toEqual([
      ['off-frame', 'in-frame'],
      ['in-frame', 'off-frame'],
    ]);
  });
  it('never drops a point that projects into the frame, whatever the camera, its lens shift and the margin', () => {
    const coordinate = fc.double({ min: -20, max: 20, noNaN: true });
    fc.assert(
      fc.property(
        fc.tuple(coordinate, coordinate, coordinate),
        fc.tuple(coordinate, coordinate, coordinate),
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: 0.2, max: 50, noNaN: true }),
        fc.integer({ min: 0, max: 100 }),
        fc.tuple(fc.double({ min: -1, max: 1, noNaN: true }), fc.double({ min: -1, max: 1, noNaN: true })),
        fc.constantFrom('perspective' as const, 'orthographic' as const),
        (from, to, x, y, depth, margin, [shiftX, shiftY], projection) => {
          fc.pre(Math.hypot(from[0] - to[0], from[1] - to[1], from[2] - to[2]) > 0.1);
          const c = camera(margin, { matrix: lookAt(from, to), shiftX, shiftY, projection });
          const m = c.matrix;
          const half = halfHeightOf(c);
          const aspect = c.widthPx / c.heightPx;
          const far = projection === 'perspective' ? depth : 1;
          const sx = x * 0.9999 + 2 * shiftX;
          const sy = y * 0.9999 + 2 * shiftY;
          const p = [0, 1, 2].map(
            (k) => m[12 + k]! + m[k]! * sx * half * aspect * far + m[4 + k]! * sy * half * far - m[8 + k]! * depth,
          ) as [number, number, number];
          expect(outside(framePlanes(c, margin), p, p, IDENTITY)).toBe(false);
        },
      ),
    );
  });
});
