import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { angleDeg, focalForAngleMm, poseOf, withPose, withUprightLines } from './cameraPose.ts';
import { cameraForScene, halfHeightOf } from './cameraSettings.ts';
import type { CameraSettings } from './cameraShape.ts';
import { IDENTITY, lookAt } from './matrix.ts';

const camera = (matrix: readonly number[], more: Partial<CameraSettings> = {}): CameraSettings => ({
  ...cameraForScene({ version: 1, nodes: [], meshes: [], materials: [], textures: [], lights: [], cameras: [] }),
  matrix,
  ...more,
});
const close = (a: readonly number[], b: readonly number[]) => a.forEach((x, i) => expect(x).toBeCloseTo(b[i]!, 6));
/** Where a world point falls in the frame, −1…1 of its half sides, by the lens and its shift. */
function inFrame(c: CameraSettings, p: readonly [number, number, number]): [number, number] {
  const m = c.matrix;
  const d = [p[0] - m[12]!, p[1] - m[13]!, p[2] - m[14]!];
  const along = (a: number) => d[0]! * m[a]! + d[1]! * m[a + 1]! + d[2]! * m[a + 2]!;
  const half = halfHeightOf(c);
  const z = -along(8);
  return [
    along(0) / z / (half * (c.widthPx / c.heightPx)) - 2 * (c.shiftX ?? 0),
    along(4) / z / half - 2 * (c.shiftY ?? 0),
  ];
}

describe('a camera’s pose in numbers', () => {
  it('reads what one sees: level, panned to the left, tilted up, rolled clockwise', () => {
    expect(poseOf(IDENTITY)).toEqual({ heightM: 0, panDeg: 0, tiltDeg: -0, rollDeg: -0 });
    expect(poseOf(lookAt([0, 2, 0], [-1, 2, 0]))).toMatchObject({ heightM: 2, panDeg: 90 });
    expect(poseOf(lookAt([0, 0, 0], [0, 1, -1])).tiltDeg).toBeCloseTo(45);
    expect(poseOf(withPose(IDENTITY, { rollDeg: 10 })).rollDeg).toBeCloseTo(10);
    expect(withPose(IDENTITY, { rollDeg: 10 })[1]).toBeLessThan(0); // its right side goes down
  });
  it('comes back from its numbers', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -179, max: 179, noNaN: true }),
        fc.double({ min: -89, max: 89, noNaN: true }),
        fc.double({ min: -179, max: 179, noNaN: true }),
        (panDeg, tiltDeg, rollDeg) => {
          const m = withPose([...IDENTITY.slice(0, 12), 3, 4, 5, 1], { panDeg, tiltDeg, rollDeg });
          const p = poseOf(m);
          close([p.panDeg, p.tiltDeg, p.rollDeg, p.heightM, m[12]!, m[14]!], [panDeg, tiltDeg, rollDeg, 4, 3, 5]);
          close(withPose(m, {}), m);
        },
      ),
    );
  });
  it('is whole when it looks straight down', () => {
    const down = withPose(IDENTITY, { tiltDeg: -90, panDeg: 30 });
    expect(poseOf(down)).toMatchObject({ tiltDeg: expect.closeTo(-90, 4), panDeg: expect.closeTo(30, 4), rollDeg: 0 });
  });
  it('has the angle of its lens', () => {
    expect(angleDeg({ sensorWidthMm: 36, focalLengthMm: 18 })).toBeCloseTo(90);
    expect(focalForAngleMm(36, 90)).toBeCloseTo(18);
  });
});

describe('upright lines', () => {
  const tilted = camera(lookAt([0, 1.6, 5], [0.4, 0.5, 0]), { focalLengthMm: 35, widthPx: 1200, heightPx: 900 });
  const upright = withUprightLines(tilted)!;
  it('keep the frame’s middle where it was', () => {
    const m = tilted.matrix;
    const middle = [m[12]! - 4 * m[8]!, m[13]! - 4 * m[9]!, m[14]! - 4 * m[10]!] as const;
    close(inFrame(tilted, middle), [0, 0]);
    close(inFrame(upright, middle), [0, 0]);
  });
  it('stand upright: two points above each other fall above each other', () => {
    const [low] = inFrame(upright, [1, 0, 0]);
    const [high] = inFrame(upright, [1, 2, 0]);
    const [lowBefore] = inFrame(tilted, [1, 0, 0]);
    const [highBefore] = inFrame(tilted, [1, 2, 0]);
    expect(high).toBeCloseTo(low, 9);
    expect(Math.abs(highBefore - lowBefore)).toBeGreaterThan(0.01);
  });
  it('are not to be had from above or without perspective', () => {
    expect(withUprightLines(camera(lookAt([0, 5, 0], [0, 0, 0])))).toBeUndefined();
    expect(withUprightLines({ ...tilted, projection: 'orthographic' })).toBeUndefined();
  });
});
