// Lights that are put where they are wanted: what is recorded of a new one, of one that is placed by a click, of a copy
// of one, and of its mirror image. Pure; positions in the world, metres.
import {
  ADDED,
  AIM,
  type Change,
  type ResolvedState,
  type SceneIndex,
  UNAIMED,
  type Value,
  addedPath,
  isAddedPath,
  lightTarget,
  lookingAt,
  parseTarget,
  propertiesFor,
  propertyOf,
  sameValue,
  turnOf,
} from '@variscen/core/looks';
import {
  type CameraSettings,
  IDENTITY,
  type LightType,
  type Matrix,
  type Rgb,
  axisScales,
  inverted,
  multiply,
} from '@variscen/core/scene';

/** Before what it lights, along its normal; or where a mirror there would show it. */
export type PlacingHow = 'lit' | 'highlight';
/** A point of a surface, and from where it is seen. */
export interface Spot {
  readonly point: Rgb;
  readonly normal: Rgb;
  readonly from: Rgb;
}
/** Where a light stands, and the point that it looks at. */
export interface Stand {
  readonly place: Rgb;
  readonly at: Rgb;
}

/** A light stands this share of the way to the eye from what it lights. */
const DISTANCE_SHARE = 0.6;
/** Sizes of new lights, as shares of how far they stand from what they light. */
const SIZES = { side: 0.5, discRadius: 0.25, ballRadius: 0.1, bulbRadius: 0.02 } as const;
const SPOT_CONE_DEG = 50;
const SPOT_INNER_DEG = 30;

const plus = (a: Rgb, b: Rgb, k = 1): Rgb => [a[0] + b[0] * k, a[1] + b[1] * k, a[2] + b[2] * k];
const dot = (a: Rgb, b: Rgb): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const apart = (a: Rgb, b: Rgb): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
const rounded = (v: Rgb, digits: number): Rgb => v.map((x) => Number(x.toFixed(digits)) + 0) as unknown as Rgb;

/** How far a new light stands from what it lights. */
export const usualDistance = ({ point, from }: Pick<Spot, 'point' | 'from'>): number =>
  Math.max(0.01, apart(point, from) * DISTANCE_SHARE);

/** Where a light goes that lights a spot, or shows in it, from so far away. */
export function standFor(how: PlacingHow, { point, normal, from }: Spot, distanceM: number): Stand {
  if (how === 'lit') return { place: plus(point, normal, distanceM), at: point };
  const length = apart(point, from) || 1;
  const toEye: Rgb = [(from[0] - point[0]) / length, (from[1] - point[1]) / length, (from[2] - point[2]) / length];
  // the law of reflection: as far from the normal on the other side
  const mirrored = plus([-toEye[0], -toEye[1], -toEye[2]], normal, 2 * dot(toEye, normal));
  return { place: plus(point, mirrored, distanceM), at: point };
}

/** Beside a camera, above its left shoulder, looking where it looks. */
export function standByCamera({ matrix: m, focusDistanceM }: CameraSettings): Stand {
  const scales = axisScales(m);
  const axis = (k: number): Rgb => [m[k * 4]! / scales[k]!, m[k * 4 + 1]! / scales[k]!, m[k * 4 + 2]! / scales[k]!];
  const eye: Rgb = [m[12]!, m[13]!, m[14]!];
  const side = focusDistanceM * 0.3;
  return {
    place: plus(plus(eye, axis(0), -side), axis(1), side),
    at: plus(eye, axis(2), -focusDistanceM),
  };
}

/**
 * What puts a light there, against where its node stands. A light that was aimed at a thing is so no longer.
 * @param node where the node of the light stands in the world; of an added light the world itself
 */
export function standChanges(
  index: SceneIndex,
  state: ResolvedState,
  target: string,
  { place, at }: Stand,
  node: Matrix = IDENTITY,
): Change[] {
  const changes: Change[] = [];
  const set = (property: string, value: Value) => {
    if (propertiesFor(index, target).some((p) => p.id === property)) changes.push({ target, property, value });
  };
  set('light.offset', rounded([place[0] - node[12]!, place[1] - node[13]!, place[2] - node[14]!], 4));
  const wanted = lookingAt(place, at);
  const back = inverted(unscaled(node));
  if (wanted && back) set('light.turn', rounded(turnOf(multiply(unplaced(wanted), back)), 3));
  const aimedAt = state.get(target, AIM);
  if (aimedAt !== undefined && aimedAt !== UNAIMED) set(AIM, UNAIMED);
  return changes;
}
const unplaced = (m: Matrix): Matrix => [...m.slice(0, 12), 0, 0, 0, 1];
function unscaled(m: Matrix): Matrix {
  const s = axisScales(m);
  return [0, 1, 2]
    .flatMap((k) => [m[k * 4]! / s[k]!, m[k * 4 + 1]! / s[k]!, m[k * 4 + 2]! / s[k]!, 0])
    .concat(0, 0, 0, 1);
}

/**
 * A new light: as large as suits how far it stands away, and so strong that white paper at what it looks at is as
 * bright as white is in the picture.
 */
export function newLightChanges(
  index: SceneIndex,
  state: ResolvedState,
  type: LightType,
  name: string,
  stand: Stand,
): { readonly target: string; readonly changes: readonly Change[] } {
  const target = lightTarget(addedPath(type, name));
  const distanceM = Math.max(0.01, apart(stand.place, stand.at));
  const values: Record<string, Value> = { [ADDED]: true, ...sizesOf(type, distanceM) };
  values['light.intensity'] = Number(strengthFor(type, distanceM, whiteLux(state)).toPrecision(4));
  return {
    target,
    changes: [
      ...Object.entries(values).map(([property, value]): Change => ({ target, property, value })),
      ...standChanges(index, state, target, stand),
    ],
  };
}
/** Lux under which white paper is as bright as white in the picture, by the look's exposure. */
function whiteLux(state: ResolvedState): number {
  const exposure = state.get('grade', 'grade.exposure');
  return Math.PI / 2 ** (typeof exposure === 'number' ? exposure : 0);
}
function sizesOf(type: LightType, distanceM: number): Record<string, Value> {
  const size = (share: number) => Number((distanceM * share).toPrecision(3));
  switch (type) {
    case 'sun':
      return {};
    case 'point':
      return { 'light.radius': size(SIZES.bulbRadius) };
    case 'spot':
      return {
        'light.radius': size(SIZES.bulbRadius),
        'light.cone': SPOT_CONE_DEG,
        'light.coneInner': SPOT_INNER_DEG,
      };
    case 'rectangle':
      return { 'light.width': size(SIZES.side), 'light.height': size(SIZES.side) };
    case 'disc':
      return { 'light.radius': size(SIZES.discRadius) };
    case 'ball':
      return { 'light.radius': size(SIZES.ballRadius) };
  }
}
/** Of a light of the usual size that gives so many lux so far away, straight before it. */
function strengthFor(type: LightType, distanceM: number, lux: number): number {
  switch (type) {
    case 'sun':
      return lux;
    case 'point':
    case 'spot':
      return lux * distanceM ** 2;
    case 'rectangle':
      return lux / SIZES.side ** 2;
    case 'disc':
      return lux / (Math.PI * SIZES.discRadius ** 2);
    case 'ball':
      return lux / (Math.PI * SIZES.ballRadius ** 2);
  }
}

/** A light of a look, and where it stands in it. */
export interface LightThere {
  readonly path: string;
  readonly type: LightType;
  /** Moved and turned, in the world. */
  readonly matrix: Matrix;
}
/**
 * A light that is as another, and stands elsewhere.
 * @param shift in the world's axes; mirrored: on the other side of the upright plane that a camera looks along
 */
export function copyChanges(
  index: SceneIndex,
  state: ResolvedState,
  light: LightThere,
  name: string,
  to: { readonly shift: Rgb } | { readonly mirroredIn: CameraSettings },
): { readonly target: string; readonly changes: readonly Change[] } {
  const path = addedPath(light.type, name);
  const target = lightTarget(path);
  const from = lightTarget(light.path);
  const values = propertiesFor(index, from)
    .filter((p) => !['light.offset', 'light.turn', ADDED].includes(p.id))
    .map((p): Change => ({ target, property: p.id, value: state.get(from, p.id)! }))
    .filter((c) => !sameValue(c.value, propertyOf(c.property)!.base(index, path)));
  const m = light.matrix;
  const place: Rgb = [m[12]!, m[13]!, m[14]!];
  const at: Rgb = [place[0] - m[8]!, place[1] - m[9]!, place[2] - m[10]!];
  const stand =
    'shift' in to
      ? { place: plus(place, to.shift), at: plus(at, to.shift) }
      : { place: mirrored(place, to.mirroredIn), at: mirrored(at, to.mirroredIn) };
  const placed = standChanges(index, state, target, stand);
  // what follows a thing goes on doing so
  const isAimed = values.some((c) => c.property === AIM && c.value !== UNAIMED);
  const kept = placed.filter((c) => !isAimed || c.property === 'light.offset');
  return { target, changes: [{ target, property: ADDED, value: true }, ...values, ...kept] };
}
function mirrored(p: Rgb, { matrix: m }: CameraSettings): Rgb {
  const right: Rgb = [m[0]!, 0, m[2]!];
  const length = Math.hypot(...right) || 1;
  const x: Rgb = [right[0] / length, 0, right[2] / length];
  const off = dot(plus(p, [m[12]!, m[13]!, m[14]!], -1), x);
  return plus(p, x, -2 * off);
}

/** Whether a target is a light that looks add. */
export function isAddedLight(target: string): boolean {
  const t = parseTarget(target);
  return t?.kind === 'light' && isAddedPath(t.name);
}
