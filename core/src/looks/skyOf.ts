// The sky that a look means.
import {
  type ImportedSky,
  type MadeSky,
  type Daylight,
  type GradientSky,
  daylightName,
  gradientName,
  isEnvironmentKind,
  parseSky,
} from '../environment/index.ts';
import type { Rgb } from '../scene/index.ts';
import type { Value } from './properties.ts';
import type { ResolvedState } from './resolve.ts';

/** Where a look has the sun, and how hazy its air is. */
export function daylightOf(state: ResolvedState): Daylight {
  const number = (property: string) => Number(state.get('environment', `environment.${property}`));
  return {
    elevationDeg: number('sunElevation'),
    azimuthDeg: number('sunAzimuth'),
    haze: number('haze'),
  };
}

function gradientOf(state: ResolvedState): GradientSky {
  const color = (property: string) => state.get('environment', `environment.${property}`) as Rgb;
  return { zenith: color('zenith'), horizon: color('horizon'), ground: color('below') };
}

/**
 * @param value of a property that says which sky: for light, for the camera, for reflections
 * @returns undefined for none, and for what is not known
 */
export function skyOf(state: ResolvedState, value: Value | undefined): MadeSky | ImportedSky | undefined {
  const imported = parseSky(value);
  if (imported) return imported;
  if (!isEnvironmentKind(value) || value === 'none') return undefined;
  if (value === 'daylight') return daylightName(daylightOf(state)) as MadeSky;
  return value === 'gradient' ? (gradientName(gradientOf(state)) as MadeSky) : value;
}
