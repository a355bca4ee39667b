// A camera's pose in numbers that a person sets: height, pan, tilt, roll; and lenses by angle. World: metres, Y up; the
// camera looks along its −Z.
import type { CameraSettings } from './cameraShape.ts';
import { halfHeightOf } from './cameraSettings.ts';
import type { Matrix } from './vectors.ts';

const DEG = Math.PI / 180;

export interface CameraPose {
  /** Height of the eye over the scene's zero. */
  readonly heightM: number;
  /** Turn about the vertical in degrees, 0 along −Z, positive to the left; −180…180. */
  readonly panDeg: number;
  /** Up is positive; −90…90. */
  readonly tiltDeg: number;
  /** Clockwise as seen from behind the camera is positive; −180…180. */
  readonly rollDeg: number;
}

export function poseOf(m: Matrix): CameraPose {
  const unit = (a: number): [number, number, number] => {
    const x = m[a]!;
    const y = m[a + 1]!;
    const z = m[a + 2]!;
    const l = Math.hypot(x, y, z) || 1;
    return [x / l, y / l, z / l];
  };
  const right = unit(0);
  const up = unit(4);
  const back = unit(8);
  const tilt = Math.asin(Math.min(1, Math.max(-1, -back[1])));
  // straight up or down the pan is read from the camera's right side, and the roll is none
  const steep = Math.hypot(back[0], back[2]) < 1e-6;
  const pan = steep ? Math.atan2(-right[2], right[0]) : Math.atan2(back[0], back[2]);
  return {
    heightM: m[13]!,
    panDeg: pan / DEG,
    tiltDeg: tilt / DEG,
    rollDeg: steep ? 0 : Math.atan2(-right[1], up[1]) / DEG,
  };
}

/** The same place, with other numbers of its pose; the camera's scale is dropped. */
export function withPose(m: Matrix, set: Partial<CameraPose>): number[] {
  const p = { ...poseOf(m), ...set };
  const [pan, tilt, roll] = [p.panDeg * DEG, p.tiltDeg * DEG, -p.rollDeg * DEG];
  const [cy, sy, cx, sx, cz, sz] = [
    Math.cos(pan),
    Math.sin(pan),
    Math.cos(tilt),
    Math.sin(tilt),
    Math.cos(roll),
    Math.sin(roll),
  ];
  // Ry(pan) · Rx(tilt) · Rz(−roll), column-major
  return [
    cy * cz + sy * sx * sz,
    cx * sz,
    -sy * cz + cy * sx * sz,
    0,
    -cy * sz + sy * sx * cz,
    cx * cz,
    sy * sz + cy * sx * cz,
    0,
    sy * cx,
    -sx,
    cy * cx,
    0,
    m[12]!,
    p.heightM,
    m[14]!,
    1,
  ];
}

/** Horizontal angle of view in degrees. */
export const angleDeg = (c: Pick<CameraSettings, 'sensorWidthMm' | 'focalLengthMm'>): number =>
  (2 * Math.atan(c.sensorWidthMm / 2 / c.focalLengthMm)) / DEG;
export const focalForAngleMm = (sensorWidthMm: number, horizontalDeg: number): number =>
  sensorWidthMm / 2 / Math.tan((horizontalDeg * DEG) / 2);

/**
 * Stands the camera level, so that what is upright in the scene is upright in the picture, and shifts the lens so that
 * what was in the frame's middle stays there.
 * The shift is limited to the range that cameras have (two frame heights); undefined for a camera that looks straight
 * up or down, or is orthographic.
 */
export function withUprightLines(c: CameraSettings): CameraSettings | undefined {
  const { tiltDeg } = poseOf(c.matrix);
  if (c.projection !== 'perspective' || Math.abs(tiltDeg) > 80) return undefined;
  const shiftY = Math.min(2, Math.max(-2, (c.shiftY ?? 0) + Math.tan(tiltDeg * DEG) / (2 * halfHeightOf(c))));
  return {
    ...c,
    matrix: withPose(c.matrix, { tiltDeg: 0, rollDeg: 0 }),
    shiftY: Math.abs(shiftY) < 1e-9 ? undefined : shiftY,
  };
}
