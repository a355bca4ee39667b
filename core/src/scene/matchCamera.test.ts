// A camera that is matched to a plate is the one that took it.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';

import {
  type FrameLine,
  type FramePoint,
  MatchFault,
  type PlateMatch,
  directionAt,
  matchCamera,
  shownAt,
} from './matchCamera.ts';
import { type CameraSettings, cameraForScene, poseOf, withPose } from './index.ts';
import type { Rgb } from './vectors.ts';

const EMPTY = { nodes: [], meshes: [], materials: [], textures: [], cameras: [], lights: [] };
const plain = (set: Partial<CameraSettings> = {}): CameraSettings => ({
  ...cameraForScene(EMPTY as never),
  widthPx: 1600,
  heightPx: 1000,
  focalLengthMm: 35,
  ...set,
});
const standing = (at: Rgb, panDeg: number, tiltDeg: number, rollDeg: number, set: Partial<CameraSettings> = {}) => {
  const c = plain(set);
  const matrix = [...withPose([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, ...at, 1], { panDeg, tiltDeg, rollDeg })];
  return { ...c, matrix };
};
const shown = (c: CameraSettings, p: Rgb): FramePoint => shownAt(c, p)!;
const line = (c: CameraSettings, from: Rgb, to: Rgb): FrameLine => [shown(c, from), shown(c, to)];

/** Edges of a box of 2 × 1 × 3 m that stands on the ground in front of the origin, as a camera shows them. */
const boxMatch = (c: CameraSettings): PlateMatch => ({
  first: [line(c, [-1, 0, 0], [-1, 0, -3]), line(c, [1, 1, 0], [1, 1, -3])],
  firstAlong: '-z',
  second: [line(c, [-1, 0, 0], [1, 0, 0]), line(c, [-1, 1, 0], [1, 1, 0])],
  secondIs: 'level',
  ground: shown(c, [1, 0, 0]),
  groundAt: [1, 0, 0],
  scale: { by: 'height', heightM: c.matrix[13]! },
});
/** As seen in a mirror that stands across X. */
function mirrored(c: CameraSettings): CameraSettings {
  const pose = poseOf(c.matrix);
  const [x, y, z] = c.matrix.slice(12, 15);
  return standing([-x!, y!, z!], -pose.panDeg, pose.tiltDeg, -pose.rollDeg, {
    focalLengthMm: c.focalLengthMm,
    shiftX: -(c.shiftX ?? 0),
  });
}
const wrong = (c: CameraSettings) => ({ ...plain({ shiftX: c.shiftX, shiftY: c.shiftY }), focalLengthMm: 85 });
const apart = (a: readonly number[], b: readonly number[]) => Math.max(...a.map((x, i) => Math.abs(x - b[i]!)));

/** Cameras that see the box from its front, turned enough that both pairs run away. */
const cameras = fc
  .record({
    x: fc.double({ min: 3, max: 6, noNaN: true }),
    y: fc.double({ min: 0.5, max: 4, noNaN: true }),
    z: fc.double({ min: 4, max: 9, noNaN: true }),
    pan: fc.double({ min: 25, max: 50, noNaN: true }),
    tilt: fc.double({ min: -25, max: 10, noNaN: true }),
    roll: fc.double({ min: -15, max: 15, noNaN: true }),
    mm: fc.double({ min: 18, max: 60, noNaN: true }),
    shiftX: fc.double({ min: -0.2, max: 0.2, noNaN: true }),
  })
  .map(({ x, y, z, pan, tilt, roll, mm, shiftX }) =>
    standing([x, y, z], pan, tilt, roll, { focalLengthMm: mm, shiftX }),
  );

describe('a camera matched to a plate', () => {
  it('is the one that took it: place, direction and lens', () => {
    fc.assert(
      fc.property(cameras, (taken) => {
        const found = matchCamera(boxMatch(taken), wrong(taken));
        expect(found.focalIsFound).toBe(true);
        expect(Math.abs(found.focalLengthMm / taken.focalLengthMm - 1)).toBeLessThan(1e-6);
        expect(apart(found.matrix, taken.matrix)).toBeLessThan(1e-6);
      }),
    );
  });

  it('is the same by upright lines and by a length on the ground', () => {
    fc.assert(
      fc.property(cameras, (taken) => {
        fc.pre(Math.abs(taken.matrix[9]!) > 0.02); // tilted: otherwise upright lines are parallel
        const match: PlateMatch = {
          ...boxMatch(taken),
          second: [line(taken, [-1, 0, 0], [-1, 1, 0]), line(taken, [1, 1, -3], [1, 0, -3])],
          secondIs: 'upright',
          scale: { by: 'length', line: line(taken, [-1, 0, 0], [1, 0, -3]), lengthM: Math.hypot(2, 3) },
        };
        const found = matchCamera(match, wrong(taken));
        expect(apart(found.matrix, taken.matrix)).toBeLessThan(1e-4);
      }),
    );
  });

  it('keeps its lens where one pair is parallel on the frame', () => {
    const taken = standing([0.2, 1.6, 5], 0, 0, 0);
    const found = matchCamera(boxMatch(taken), taken);
    expect(found.focalIsFound).toBe(false);
    expect(found.focalLengthMm).toBeCloseTo(35, 6);
    expect(apart(found.matrix, taken.matrix)).toBeLessThan(1e-6);
  });

  it('is the same whichever pair is first: X runs to the right, wherever that pair meets', () => {
    fc.assert(
      fc.property(cameras, fc.boolean(), (taken, isMirrored) => {
        // seen from the right or from the left: the edges along X meet at the left or at the right
        const turned = isMirrored ? mirrored(taken) : taken;
        const good = boxMatch(turned);
        const found = matchCamera({ ...good, first: good.second, firstAlong: '+x', second: good.first }, turned);
        expect(apart(found.matrix, turned.matrix)).toBeLessThan(1e-6);
      }),
    );
  });

  it('stands on the other side where the same lines run against the axes', () => {
    const taken = standing([4, 2, 6], 35, -8, 3);
    const match = { ...boxMatch(taken), groundAt: [0, 0, 0] } as const;
    const along = (firstAlong: PlateMatch['firstAlong']) => matchCamera({ ...match, firstAlong }, taken).matrix;
    const turnedAbout = (m: readonly number[]) => m.map((x, i) => (i % 4 === 1 || i === 15 ? x : -x));
    expect(apart(along('+z'), turnedAbout(along('-z')))).toBeLessThan(1e-9);
    expect(apart(along('-x'), turnedAbout(along('+x')))).toBeLessThan(1e-9);
  });

  it('shows a point of the world where a ray through the frame meets it', () => {
    fc.assert(
      fc.property(cameras, (c) => {
        const point: Rgb = [0.3, 0.4, -1.2];
        const d = directionAt(c, shown(c, point));
        const eye = c.matrix.slice(12, 15);
        const away = Math.hypot(...point.map((x, k) => x - eye[k]!));
        expect(
          apart(
            [0, 1, 2].map((k) => eye[k]! + d[k]! * away),
            point,
          ),
        ).toBeLessThan(1e-9);
        expect(shownAt(c, [eye[0]! - d[0], eye[1]! - d[1], eye[2]! - d[2]])).toBeUndefined();
      }),
    );
  });

  it('says where its horizon lies', () => {
    const level = standing([3, 1.6, 5], 30, 0, 0);
    const match = matchCamera(boxMatch(level), level);
    expect(match.horizon![0][1]).toBeCloseTo(0.5, 6);
    expect(match.horizon![1][1]).toBeCloseTo(0.5, 6);
    const down = standing([3, 1.6, 5], 30, -10, 0);
    const far = shown(down, [-1e7, 1.6, -1e7]);
    const [from, to] = matchCamera(boxMatch(down), down).horizon!;
    expect(from[1] + (to[1] - from[1]) * far[0]).toBeCloseTo(far[1], 4);
  });

  it('tells what lines do not say', () => {
    const taken = standing([4, 2, 6], 35, -8, 0);
    const good = boxMatch(taken);
    const said = (m: Partial<PlateMatch>) => {
      try {
        matchCamera({ ...good, ...m }, taken);
        return 'nothing';
      } catch (e) {
        if (!(e instanceof MatchFault)) throw e;
        return e.message;
      }
    };
    expect(said({})).toBe('nothing');
    expect(
      said({
        first: [
          [
            [0.2, 0.2],
            [0.2, 0.2],
          ],
          good.first[1],
        ],
      }),
    ).toMatch(/first pair is too short/);
    expect(said({ second: [good.second[0], good.second[0]] })).toMatch(/are one line/);
    expect(said({ second: good.first })).toMatch(/opposite sides/);
    expect(said({ ground: [0.5, 0.01] })).toMatch(/above the horizon/);
    expect(said({ scale: { by: 'height', heightM: 0 } })).toMatch(/above 0/);
    expect(
      said({
        scale: {
          by: 'length',
          line: [
            [0.4, 0.9],
            [0.4, 0.9],
          ],
          lengthM: 1,
        },
      }),
    ).toMatch(/no length/);
    const flat: FrameLine = [
      [0.1, 0.3],
      [0.9, 0.3],
    ];
    const lower: FrameLine = [
      [0.1, 0.7],
      [0.9, 0.7],
    ];
    const left: FrameLine = [
      [0.2, 0.1],
      [0.2, 0.9],
    ];
    const right: FrameLine = [
      [0.8, 0.1],
      [0.8, 0.9],
    ];
    expect(said({ first: [flat, lower], second: [left, right] })).toMatch(/parallel on the plate/);
  });
});
