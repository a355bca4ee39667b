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
import { FrameCull } from './frameCull.ts';
import { framePlanes, outside } from './rules/outsideFrame.ts';

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
  new FrameCull({ document: d, world: worldMatrices(d.nodes), emits, shown }).verdicts(c).map((v) => v.reason);

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
  it('says of any number of cameras what it says of each alone', () => {
    const d = scene(at(0, 0, -5), at(30, 0, -5), at(4, 0, -5), at(0, 0, 5));
    const cameras = [
      camera(0),
      camera(50),
      camera(null),
      camera(0, { shiftX: 0.5 }),
      camera(0, { matrix: at(0, 0, 20) }),
    ];
    const cull = new FrameCull({ document: d, world: worldMatrices(d.nodes), emits: () => false, shown: () => true });
    for (const c of [...cameras, ...cameras]) expect(cull.verdicts(c).map((v) => v.reason)).toEqual(verdicts(d, c));
  });
  it('knows an empty frame, in which what is hidden does not count, and what glows does', () => {
    const cull = (shown: (n: number) => boolean) =>
      new FrameCull({ document: beside, world: worldMatrices(beside.nodes), emits: () => true, shown });
    const beside = scene(at(0, 0, -5), at(30, 0, -5));
    const there = camera(null);
    const away = camera(null, { matrix: at(0, 0, -20) });
    const all = () => true;
    expect([cull(all).showsAny(there, all), cull(all).showsAny(away, all)]).toEqual([true, false]);
    expect([cull((n) => n !== 0).showsAny(there, all), cull(all).showsAny(there, (n) => n !== 0)]).toEqual([
      false,
      false,
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
