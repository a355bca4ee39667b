// What is recorded of a rig: lights of a Lighting option, sky values of an Environment option.
import { illuminance, luminanceOf, sunDirection, sunLight } from '../environment/index.ts';
import { kelvinColor } from '../image/index.ts';
import {
  ADDED,
  type Change,
  type ResolvedState,
  type SceneIndex,
  type Value,
  addedPath,
  freeName,
  isOn,
  lightNames,
  lightTarget,
  lookingAt,
  turnOf,
} from '../looks/index.ts';
import type { CameraSettings, LightType, Rgb } from '../scene/index.ts';
import type { Rig, RigLight, RigShape } from './rigs.ts';
import type { Subject } from './subject.ts';

/** What four sliders say of all of a rig. */
export interface RigSettings {
  /** Degrees about the subject. */
  readonly turnDeg: number;
  /** Stops of everything that gives light. */
  readonly strengthStops: number;
  /** −1 cold … 1 warm: of 100 mired. */
  readonly warmth: number;
  /** Stops by which fills and sky are darker against the keys; below 0 brighter. */
  readonly contrastStops: number;
}
export const PLAIN_RIG: RigSettings = { turnDeg: 0, strengthStops: 0, warmth: 0, contrastStops: 0 };
export const RIG_LIMITS: Readonly<Record<keyof RigSettings, { readonly min: number; readonly max: number }>> = {
  turnDeg: { min: -180, max: 180 },
  strengthStops: { min: -4, max: 4 },
  warmth: { min: -1, max: 1 },
  contrastStops: { min: -3, max: 3 },
};

export interface RigWish {
  readonly rig: Rig;
  readonly subject: Subject;
  /** The rig is turned to it. */
  readonly camera: CameraSettings;
  readonly settings: RigSettings;
  /** The scene's lights, and those that every look has, are switched off in it. */
  readonly replaces: boolean;
}
export interface RigMade {
  readonly lighting: readonly Change[];
  readonly environment: readonly Change[];
}

const RAD = Math.PI / 180;
const NEUTRAL_KELVIN = 6500;
const MIRED = 100;
/** A light stands no nearer to the ground than this share of the subject's radius. */
const OVER_FLOOR = 0.15;

/** @param state what the rig comes into, without the options that it takes the place of */
export function rigChanges(index: SceneIndex, state: ResolvedState, wish: RigWish): RigMade {
  const { rig, replaces } = wish;
  const white = Math.PI / 2 ** Number(state.get('grade', 'grade.exposure') ?? 0);
  const taken = lightNames(index);
  const name = (wanted: string) => {
    const free = freeName(taken, wanted);
    taken.add(free);
    return free;
  };
  const lighting = rig.lights.flatMap((l) => lightChanges(l, name(l.name), wish, white));
  const sun = rig.sky.sun && sunChanges(rig.sky.sun, name('Sun'), wish, white);
  return {
    lighting: [
      ...(replaces && !rig.keepsLights ? switchedOff(index, state) : []),
      ...lighting,
      ...(sun?.lighting ?? []),
    ],
    environment: [
      ...skyChanges(wish, white, sun?.strength ?? null),
      ...(sun?.environment ?? []),
      ...sweepChanges(wish),
    ],
  };
}

/** Every light that is on otherwise. */
const switchedOff = (index: SceneIndex, state: ResolvedState): Change[] =>
  index.document.nodes.flatMap((n) =>
    n.light !== undefined && isOn(state, n.path)
      ? [{ target: lightTarget(n.path), property: 'light.on', value: false }]
      : [],
  );

const gain = ({ strengthStops, contrastStops }: RigSettings, role: RigLight['role']): number =>
  2 ** (strengthStops - (role === 'fill' ? contrastStops : 0));
/** Temperatures are shifted as filters shift them: by their reciprocals. */
const warmed = (kelvin: number, { warmth }: RigSettings): number =>
  Math.round(Math.min(25_000, Math.max(1700, 1e6 / (1e6 / kelvin + warmth * MIRED))));

/** The azimuth under which the camera stands about the subject, from north to east; by its view where it is above. */
function cameraAzimuthDeg({ camera: { matrix: m }, subject }: RigWish): number {
  const to = [m[12]! - subject.middle[0], m[14]! - subject.middle[2]] as const;
  const isAbove = Math.hypot(...to) < subject.radiusM * 1e-3;
  const [x, z] = isAbove ? [-m[4]!, -m[6]!] : to;
  return Math.atan2(x, -z) / RAD;
}

function placeOf({ azimuthDeg, elevationDeg, distance }: RigLight, wish: RigWish): Rgb {
  const { subject, settings } = wish;
  // to the camera's right: as the camera sees it, azimuths grow to its left from behind the subject
  const azimuth = (cameraAzimuthDeg(wish) - azimuthDeg + settings.turnDeg) * RAD;
  const far = distance * subject.radiusM;
  const flat = Math.cos(elevationDeg * RAD) * far;
  const y = subject.middle[1] + Math.sin(elevationDeg * RAD) * far;
  return [
    subject.middle[0] + Math.sin(azimuth) * flat,
    Math.max(y, subject.floorM + OVER_FLOOR * subject.radiusM),
    subject.middle[2] - Math.cos(azimuth) * flat,
  ];
}

function lightChanges(light: RigLight, name: string, wish: RigWish, white: number): Change[] {
  const { subject, settings } = wish;
  const { shape } = light;
  const place = placeOf(light, wish);
  const r = subject.radiusM;
  const distanceM = Math.hypot(...place.map((x, k) => x - subject.middle[k]!));
  const lux = white * light.white * gain(settings, light.role);
  const set = changesOf(lightTarget(addedPath(shape.type, name)));
  const turn = turnOf(lookingAt(place, subject.middle)!);
  return [
    set(ADDED, true),
    set('light.intensity', round(lux / luxOf(shape, r, distanceM))),
    set('light.temperature', warmed(light.kelvin, settings)),
    ...(shape.type === 'rectangle'
      ? [set('light.width', round(shape.width * r)), set('light.height', round(shape.height * r))]
      : [set('light.radius', round(shape.radius * r))]),
    set('light.offset', place.map(round) as unknown as Rgb),
    ...(shape.type === 'ball' ? [] : [set('light.turn', turn.map((x) => Number(x.toFixed(3))) as unknown as Rgb)]),
  ];
}
const changesOf =
  (target: string) =>
  (property: string, value: Value): Change => ({ target, property, value });
const round = (x: number): number => Number(x.toPrecision(5));

/**
 * Lux straight before a panel of one nit (Lambert's formulas for parallel rectangles and discs, and of a sphere).
 * @param r metres of the shape's unit
 */
function luxOf(shape: RigShape, r: number, distanceM: number): number {
  if (shape.type === 'rectangle') {
    const x = (shape.width * r) / 2 / distanceM;
    const y = (shape.height * r) / 2 / distanceM;
    const part = (a: number, b: number) => (a / Math.hypot(1, a)) * Math.atan(b / Math.hypot(1, a));
    return 2 * (part(x, y) + part(y, x));
  }
  const radius = shape.radius * r;
  const square = radius ** 2 / (shape.type === 'disc' ? radius ** 2 + distanceM ** 2 : distanceM ** 2);
  return Math.PI * square;
}

/** @param strength of daylight; null: the sky is a painted one */
function skyChanges(wish: RigWish, white: number, strength: number | null): Change[] {
  const { rig, settings } = wish;
  const set = changesOf('environment');
  // the map's north is where the camera looks; a positive turn takes it towards west (engine/kernel/environment.ts)
  const north = cameraAzimuthDeg(wish) - 180 + settings.turnDeg;
  // painted skies are made for an exposure of 0
  const own = (rig.sky.strength * white) / Math.PI;
  const tint = kelvinColor(warmed(NEUTRAL_KELVIN, settings));
  const most = Math.max(...tint);
  return [
    set('environment.kind', rig.sky.kind),
    set('environment.strength', round((strength ?? own) * gain(settings, 'fill'))),
    set('environment.turn', strength === null ? round(turned(-north)) : 0),
    set('environment.tint', tint.map((c) => Number((c / most).toFixed(4))) as unknown as Rgb),
  ];
}

/** Sun and sky together make white paper on the ground white. */
function sunChanges(
  sun: NonNullable<Rig['sky']['sun']>,
  name: string,
  wish: RigWish,
  white: number,
): { lighting: Change[]; environment: Change[]; strength: number } {
  const { settings } = wish;
  const azimuthDeg = turned(cameraAzimuthDeg(wish) - sun.azimuthDeg + settings.turnDeg);
  const day = { elevationDeg: sun.elevationDeg, azimuthDeg: round(azimuthDeg), haze: sun.haze };
  const strength = white / luminanceOf(illuminance(day));
  const { color, lux } = sunLight(day);
  const towards = sunDirection(day);
  const set = changesOf(lightTarget(addedPath('sun' satisfies LightType, name)));
  const sky = changesOf('environment');
  return {
    strength,
    lighting: [
      set(ADDED, true),
      set('light.intensity', round(lux * strength * gain(settings, 'key'))),
      set('light.color', color.map((c) => Number(c.toFixed(4))) as unknown as Rgb),
      set('light.temperature', warmed(NEUTRAL_KELVIN, settings)),
      set('light.turn', turnOf(lookingAt(towards, [0, 0, 0])!).map((x) => Number(x.toFixed(3))) as unknown as Rgb),
    ],
    environment: [
      sky('environment.sunElevation', day.elevationDeg),
      sky('environment.sunAzimuth', day.azimuthDeg),
      sky('environment.haze', day.haze),
    ],
  };
}
const turned = (deg: number): number => ((((deg + 180) % 360) + 360) % 360) - 180;

/** In radii of the subject. */
const SWEEP = { width: 12, height: 6, depth: 9, before: 3 } as const;
/** A sweep under and behind the subject, open to the camera. */
function sweepChanges(wish: RigWish): Change[] {
  const set = changesOf('environment');
  const { rig, subject } = wish;
  if (!rig.sweep) return [set('environment.backdrop', false)];
  const r = subject.radiusM;
  const azimuth = cameraAzimuthDeg(wish) * RAD;
  // its middle lies behind the subject: half its depth less what is before it
  const back = (SWEEP.depth / 2 - SWEEP.before) * r;
  const at: Rgb = [
    subject.middle[0] - Math.sin(azimuth) * back,
    subject.floorM - r * 1e-3,
    subject.middle[2] + Math.cos(azimuth) * back,
  ];
  return [
    set('environment.backdrop', true),
    set('environment.backdropSize', [SWEEP.width * r, SWEEP.height * r, SWEEP.depth * r].map(round) as unknown as Rgb),
    set('environment.backdropAt', at.map(round) as unknown as Rgb),
    set('environment.backdropTurn', round(turned(180 - cameraAzimuthDeg(wish)))),
    set('environment.backdropColor', rig.sweep),
  ];
}
