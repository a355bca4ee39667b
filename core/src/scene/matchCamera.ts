// A camera found from a picture of a real place: from lines drawn along two directions that stand at right angles
// there, whose vanishing points say where the camera looks and by how wide a lens (Caprile and Torre, 1990); from a
// point of the ground, and a height or a length, where it stands. World: metres, right-handed, Y up; a camera looks
// along its −Z.
import { CAMERA_LIMITS } from './cameraLimits.ts';
import { halfHeightOf } from './cameraSettings.ts';
import type { CameraSettings } from './cameraShape.ts';
import type { Matrix, Rgb } from './vectors.ts';

/** On the frame: 0, 0 at its upper left corner, 1, 1 at its lower right one. Lines may reach beyond it. */
export type FramePoint = readonly [number, number];
export type FrameLine = readonly [FramePoint, FramePoint];

/**
 * Where the level lines of the first pair run: X or −X to the right on the frame, Z or −Z away from the camera.
 */
export const RUNS_ALONG = ['-z', '+x', '+z', '-x'] as const;
export type RunsAlong = (typeof RUNS_ALONG)[number];
/** The second pair is level too, at right angles to the first; or upright, as the corners of houses are. */
export const SECOND_PAIRS = ['level', 'upright'] as const;

export interface PlateMatch {
  readonly first: readonly [FrameLine, FrameLine];
  readonly firstAlong: RunsAlong;
  readonly second: readonly [FrameLine, FrameLine];
  readonly secondIs: (typeof SECOND_PAIRS)[number];
  /** A point of the ground, and where it stands in the world. */
  readonly ground: FramePoint;
  readonly groundAt: Rgb;
  /** How large all of it is: by how high the camera stands over the ground, or by a line on it and how long that is. */
  readonly scale:
    | { readonly by: 'height'; readonly heightM: number }
    | { readonly by: 'length'; readonly line: FrameLine; readonly lengthM: number };
}

export interface MatchedCamera {
  readonly matrix: Matrix;
  /** As the camera's own where one pair of lines is parallel on the frame: then they do not tell. */
  readonly focalLengthMm: number;
  readonly focalIsFound: boolean;
  /** Where the horizon is at the frame's left and right side; null where it stands upright on it. */
  readonly horizon: FrameLine | null;
}

/** What lines do not tell, in words that say what to do. */
export class MatchFault extends Error {}

/** Lines that meet further away, in half heights of the frame, are taken for parallel. */
const FAR = 200;
/** Lines shorter than this, in half heights, point nowhere in particular. */
const SHORT = 0.02;

type Point = readonly [number, number];

/**
 * @param camera its frame's shape, sensor and shift hold; a perspective one
 * @throws MatchFault
 */
export function matchCamera(m: PlateMatch, camera: CameraSettings): MatchedCamera {
  const place = placing(camera);
  const a = vanishing(m.first, 'first', place);
  const b = vanishing(m.second, 'second', place);
  const found = focalOf(a, b);
  const focal = found ?? 1 / halfHeightOf(camera);
  const rotation = rotationOf(a, b, m, focal);
  const towards = (p: FramePoint): Rgb => {
    const [x, y] = place.onPlane(p);
    return turned(rotation, [x, y, -focal]);
  };
  const heightM = heightOf(m, towards);
  const down = onGround(towards(m.ground), 'The point on the ground');
  const at = m.groundAt.map((x, k) => x - down[k]! * heightM) as unknown as Rgb;
  return {
    matrix: [...rotation[0], 0, ...rotation[1], 0, ...rotation[2], 0, ...at, 1],
    focalLengthMm: focalLengthOf(focal, camera),
    focalIsFound: found !== undefined,
    horizon: horizonOf(rotation, focal, place),
  };
}

/** Where a perspective camera shows a point of the world; undefined where that is not before it. */
export function shownAt(c: CameraSettings, p: Rgb): FramePoint | undefined {
  const m = c.matrix;
  const d: Rgb = [p[0] - m[12]!, p[1] - m[13]!, p[2] - m[14]!];
  const along = (k: number) => m[k]! * d[0] + m[k + 1]! * d[1] + m[k + 2]! * d[2];
  const depth = -along(8);
  if (!(depth > c.nearM)) return undefined;
  const reach = depth * halfHeightOf(c);
  return placing(c).onFrame([along(0) / reach, along(4) / reach]);
}
/** In which direction of the world a point of the frame lies, of length 1. */
export function directionAt(c: CameraSettings, p: FramePoint): Rgb {
  const m = c.matrix;
  const axis = (k: number): Rgb => [m[k]!, m[k + 1]!, m[k + 2]!];
  const [x, y] = placing(c).onPlane(p);
  return unit(turned([axis(0), axis(4), axis(8)], [x, y, -1 / halfHeightOf(c)]));
}

interface Placing {
  /** A point of the frame on the plane at distance focal: right and up of the axis, in half heights of the frame. */
  onPlane(p: FramePoint): Point;
  onFrame(p: Point): FramePoint;
}
function placing(c: CameraSettings): Placing {
  const aspect = c.widthPx / c.heightPx;
  const { shiftX = 0, shiftY = 0 } = c;
  return {
    onPlane: ([x, y]) => [(x - 0.5 + shiftX) * 2 * aspect, (0.5 - y + shiftY) * 2],
    onFrame: ([x, y]) => [x / (2 * aspect) + 0.5 - shiftX, 0.5 + shiftY - y / 2],
  };
}

/** Where two lines meet; parallel ones a direction. */
type Vanishing = { readonly kind: 'point'; readonly at: Point } | { readonly kind: 'direction'; readonly along: Point };

function vanishing(lines: readonly [FrameLine, FrameLine], which: string, place: Placing): Vanishing {
  const [p, q] = lines.map((line) => line.map((end) => place.onPlane(end)) as unknown as readonly [Point, Point]);
  const along = (l: readonly [Point, Point]): Point => {
    const d: Point = [l[1][0] - l[0][0], l[1][1] - l[0][1]];
    const length = Math.hypot(...d);
    if (length < SHORT) throw new MatchFault(`A line of the ${which} pair is too short: draw it longer.`);
    return [d[0] / length, d[1] / length];
  };
  const u = along(p!);
  const v = along(q!);
  const cross = u[0] * v[1] - u[1] * v[0];
  const between: Point = [q![0][0] - p![0][0], q![0][1] - p![0][1]];
  if (Math.abs(between[0] * u[1] - between[1] * u[0]) < 1e-9 && Math.abs(cross) < 1e-9)
    throw new MatchFault(`Both lines of the ${which} pair are one line: draw them apart.`);
  const t = (between[0] * v[1] - between[1] * v[0]) / cross;
  const at: Point = [p![0][0] + u[0] * t, p![0][1] + u[1] * t];
  if (Number.isFinite(t) && Math.hypot(...at) < FAR) return { kind: 'point', at };
  const same = u[0] * v[0] + u[1] * v[1] < 0 ? -1 : 1;
  const mean: Point = [u[0] + same * v[0], u[1] + same * v[1]];
  const length = Math.hypot(...mean);
  return { kind: 'direction', along: [mean[0] / length, mean[1] / length] };
}

/**
 * Distance of the picture plane in half heights: what two directions at right angles say; undefined where they do not.
 */
function focalOf(a: Vanishing, b: Vanishing): number | undefined {
  if (a.kind === 'direction' || b.kind === 'direction') return undefined;
  const square = -(a.at[0] * b.at[0] + a.at[1] * b.at[1]);
  if (!(square > 1e-4))
    throw new MatchFault(
      'No camera sees two directions at right angles so: the pairs must meet on opposite sides of the frame’s middle. ' +
        'Check which lines belong together.',
    );
  return Math.sqrt(square);
}

function focalLengthOf(focal: number, camera: CameraSettings): number {
  const mm = (focal * camera.sensorWidthMm * camera.heightPx) / (2 * camera.widthPx);
  const [least, most] = CAMERA_LIMITS.focalLengthMm;
  if (mm < least || mm > most)
    throw new MatchFault(
      `The lines ask for a lens of ${Number(mm.toPrecision(3))} mm; a camera has ${least} to ${most} mm. Draw them longer.`,
    );
  return mm;
}

/** Camera axes right, up, back in the world. */
type Rotation = readonly [Rgb, Rgb, Rgb];
const AXES: Readonly<Record<RunsAlong, Rgb>> = { '-z': [0, 0, -1], '+x': [1, 0, 0], '+z': [0, 0, 1], '-x': [-1, 0, 0] };

function rotationOf(a: Vanishing, b: Vanishing, m: PlateMatch, focal: number): Rotation {
  if (a.kind === 'direction' && b.kind === 'direction')
    throw new MatchFault('The lines of both pairs are parallel on the plate: one pair must run away from the camera.');
  const given = { a: seen(a, focal), b: seen(b, focal) };
  // a point tells a direction, parallel lines only about: they give way
  const first = a.kind === 'point' ? given.a : unit(across(given.a, given.b));
  const second = unit(across(given.b, first));
  const along = alongOf(m.firstAlong, a);
  const other: Rgb = m.secondIs === 'upright' ? [0, 1, 0] : cross([0, 1, 0], along);
  // of the second pair either end may be the far one: the camera stands upright
  const both = [other, other.map((x) => -x) as unknown as Rgb].map((axis) => framed([first, second], [along, axis]));
  return both[0]![1][1] >= both[1]![1][1] ? both[0]! : both[1]!;
}
/** Towards what lies where the first pair meets. */
function alongOf(runs: RunsAlong, a: Vanishing): Rgb {
  const isLeft = (a.kind === 'point' ? a.at : a.along)[0] < 0;
  const axis = AXES[runs];
  return isLeft && axis[0] !== 0 ? [-axis[0], 0, 0] : axis;
}
/** Towards a vanishing point as the camera sees it. */
function seen(v: Vanishing, focal: number): Rgb {
  return v.kind === 'point' ? unit([v.at[0], v.at[1], -focal]) : [v.along[0], v.along[1], 0];
}
/** The camera's axes in the world, where it sees two directions at right angles so. */
function framed(sees: readonly [Rgb, Rgb], world: readonly [Rgb, Rgb]): Rotation {
  const third = cross(...sees);
  const worldThird = cross(...world);
  const axis = (k: 0 | 1 | 2): Rgb =>
    [0, 1, 2].map(
      (c) => world[0][c]! * sees[0][k] + world[1][c]! * sees[1][k] + worldThird[c]! * third[k],
    ) as unknown as Rgb;
  return [axis(0), axis(1), axis(2)];
}

function heightOf(m: PlateMatch, towards: (p: FramePoint) => Rgb): number {
  if (m.scale.by === 'height') {
    if (!(m.scale.heightM > 0)) throw new MatchFault('The camera must stand over the ground: give a height above 0.');
    return m.scale.heightM;
  }
  const [from, to] = m.scale.line.map((p) => onGround(towards(p), 'The line of known length'));
  const length = Math.hypot(to![0] - from![0], to![2] - from![2]);
  if (!(length > 1e-6) || !(m.scale.lengthM > 0))
    throw new MatchFault('The line of known length has no length: draw it along the ground, and say how long it is.');
  return m.scale.lengthM / length;
}
/** From a camera one metre over the ground to where a ray meets it. */
function onGround(ray: Rgb, what: string): Rgb {
  if (!(ray[1] < -1e-6)) throw new MatchFault(`${what} lies above the horizon that the lines give: move it down.`);
  return ray.map((x) => x / -ray[1]) as unknown as Rgb;
}

function horizonOf(r: Rotation, focal: number, place: Placing): FrameLine | null {
  // points of the plane whose direction is level: x · right.y + y · up.y = focal · back.y
  const rise = r[1][1];
  if (Math.abs(rise) < 1e-6) return null;
  const at = (frameX: number): FramePoint => {
    const [x] = place.onPlane([frameX, 0]);
    return [frameX, place.onFrame([x, (focal * r[2][1] - x * r[0][1]) / rise])[1]];
  };
  return [at(0), at(1)];
}

const cross = (a: Rgb, b: Rgb): Rgb => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const dot = (a: Rgb, b: Rgb): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
/** What of a stands across the unit vector b. */
const across = (a: Rgb, b: Rgb): Rgb => a.map((x, k) => x - b[k]! * dot(a, b)) as unknown as Rgb;
function unit(a: Rgb): Rgb {
  const length = Math.hypot(...a);
  return a.map((x) => x / length) as unknown as Rgb;
}
const turned = (r: Rotation, d: Rgb): Rgb =>
  [0, 1, 2].map((k) => r[0][k]! * d[0] + r[1][k]! * d[1] + r[2][k]! * d[2]) as unknown as Rgb;
