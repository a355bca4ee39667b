// Lights changed together: turned about what the camera looks at, made stronger, warmer, of more contrast. Pure.
import {
  AIM,
  type Change,
  type ResolvedState,
  type SceneIndex,
  UNAIMED,
  isOn,
  lightPlace,
  lightShape,
  lightTarget,
} from '@variscen/core/looks';
import type { RigSettings } from '@variscen/core/rigs';
import type { Matrix, Rgb, SceneLight } from '@variscen/core/scene';
import { standChanges } from './lightPlacing.ts';

/** A light of a look before it is changed with others. */
export interface LightBefore {
  readonly target: string;
  readonly light: SceneLight;
  readonly kelvin: number;
  /** Where its node stands, and the light itself, in the world. */
  readonly node: Matrix;
  readonly matrix: Matrix;
  readonly isAimed: boolean;
}

/** Those that are on. @param nodeAt where a node stands as the look places it */
export function lightsBefore(
  index: SceneIndex,
  state: ResolvedState,
  paths: readonly string[],
  nodeAt: (node: number) => Matrix | undefined,
): LightBefore[] {
  return paths.flatMap((path): LightBefore[] => {
    const number = index.nodes.get(path);
    const node = number === undefined ? undefined : nodeAt(number);
    if (number === undefined || !node || !isOn(state, path)) return [];
    const target = lightTarget(path);
    const aim = state.get(target, AIM);
    return [
      {
        target,
        light: lightShape(index.document, state, number),
        kelvin: Number(state.get(target, 'light.temperature')),
        node,
        matrix: lightPlace(state, path, node),
        isAimed: aim !== undefined && aim !== UNAIMED,
      },
    ];
  });
}

const RAD = Math.PI / 180;
const MIRED = 100;
const place = ({ matrix: m }: LightBefore): Rgb => [m[12]!, m[13]!, m[14]!];
const ahead = ({ matrix: m }: LightBefore): Rgb => [m[12]! - m[8]!, m[13]! - m[9]!, m[14]! - m[10]!];

/** About how many lux a light gives at a point, whichever way that faces; to tell the key from the fills. */
function luxAt(l: LightBefore, point: Rgb): number {
  const at = place(l);
  const d2 = Math.max(
    1e-6,
    at.reduce((sum, x, k) => sum + (x - point[k]!) ** 2, 0),
  );
  const { light } = l;
  switch (light.type) {
    case 'sun':
      return light.intensity;
    case 'point':
    case 'spot':
      return light.intensity / d2;
    case 'rectangle':
      return (light.intensity * light.widthM * light.heightM) / d2;
    case 'disc':
    case 'ball':
      return (light.intensity * Math.PI * light.radiusM ** 2) / d2;
  }
}

/**
 * What differs from how the lights were before. All are turned about an upright axis through the pivot, as seen from
 * above clockwise; by contrast all but the strongest at the pivot are made darker.
 */
export function changedTogether(
  index: SceneIndex,
  state: ResolvedState,
  lights: readonly LightBefore[],
  pivot: Rgb,
  { turnDeg, strengthStops, warmth, contrastStops }: RigSettings,
): Change[] {
  const strongest = Math.max(...lights.map((l) => luxAt(l, pivot)));
  return lights.flatMap((l): Change[] => {
    const { target } = l;
    const isKey = luxAt(l, pivot) === strongest;
    const gain = 2 ** (strengthStops - (isKey ? 0 : contrastStops));
    const kelvin = Math.min(25_000, Math.max(1700, 1e6 / (1e6 / l.kelvin + warmth * MIRED)));
    const changes: Change[] = [
      { target, property: 'light.intensity', value: Number((l.light.intensity * gain).toPrecision(5)) },
      { target, property: 'light.temperature', value: warmth === 0 ? l.kelvin : Math.round(kelvin) },
    ];
    if (turnDeg === 0) return changes;
    const stand = { place: turned(place(l), pivot, turnDeg), at: turned(ahead(l), pivot, turnDeg) };
    const moves = standChanges(index, state, target, stand, l.node);
    // what follows a thing goes on doing so
    return [...changes, ...moves.filter((c) => !l.isAimed || c.property === 'light.offset')];
  });
}

function turned([x, y, z]: Rgb, [px, , pz]: Rgb, deg: number): Rgb {
  const c = Math.cos(deg * RAD);
  const s = Math.sin(deg * RAD);
  const [dx, dz] = [x - px, z - pz];
  return [px + c * dx - s * dz, y, pz + s * dx + c * dz];
}
