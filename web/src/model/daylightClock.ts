// The sun at a place, a date and an hour, as values of a look. Pure.
import { type Daylight, LEAST_ELEVATION_DEG, sunAt, sunDirection, sunLight } from '@variscen/core/environment';
import {
  type Change,
  type ResolvedState,
  daylightOf,
  isOn,
  lightTarget,
  lookingAt,
  turnOf,
} from '@variscen/core/looks';

export interface PlaceAndTime {
  readonly latitudeDeg: number;
  readonly longitudeDeg: number;
  /** “2026-11-29” and “14:30”, as clocks there show them. */
  readonly date: string;
  readonly time: string;
  /** How far clocks there are before universal time, hours. */
  readonly hoursAhead: number;
}

/** With what was kept before, where that is of the right kind. */
export function withKept(first: PlaceAndTime, kept: unknown): PlaceAndTime {
  if (typeof kept !== 'object' || kept === null) return first;
  const of = kept as Readonly<Record<string, unknown>>;
  const isAlike = (a: unknown, b: unknown) => typeof a === typeof b && (typeof a !== 'number' || Number.isFinite(a));
  const entries = Object.entries(first).map(([key, value]) => [key, isAlike(of[key], value) ? of[key] : value]);
  return Object.fromEntries(entries) as PlaceAndTime;
}

const MINUTE_MS = 60_000;
/** @returns null where date or time is none */
export function sunOf({
  latitudeDeg,
  longitudeDeg,
  date,
  time,
  hoursAhead,
}: PlaceAndTime): Pick<Daylight, 'elevationDeg' | 'azimuthDeg'> | null {
  const there = Date.parse(`${date}T${time}:00Z`);
  if (!Number.isFinite(there)) return null;
  const { elevationDeg, azimuthDeg } = sunAt(new Date(there - hoursAhead * 60 * MINUTE_MS), {
    latitudeDeg,
    longitudeDeg,
  });
  return { elevationDeg: Number(elevationDeg.toFixed(2)), azimuthDeg: Number(azimuthDeg.toFixed(2)) };
}

/** Whether it is too far below the horizon for a sky of daylight. */
export const isNight = (elevationDeg: number): boolean => elevationDeg < LEAST_ELEVATION_DEG;

/** The sky with the sun there, and the one sun light that is on turned, coloured and as strong as it is then. */
export function daylightChanges(
  state: ResolvedState,
  sun: Pick<Daylight, 'elevationDeg' | 'azimuthDeg'>,
): readonly Change[] {
  const sky: Change[] = [
    { target: 'environment', property: 'environment.sunElevation', value: sun.elevationDeg },
    { target: 'environment', property: 'environment.sunAzimuth', value: sun.azimuthDeg },
  ];
  const { document } = state.scene;
  const suns = document.nodes.filter(
    (n) => n.added && document.lights[n.light!]!.type === 'sun' && isOn(state, n.path),
  );
  if (suns.length !== 1) return sky;
  const day = { ...daylightOf(state), ...sun };
  const { color, lux } = sunLight(day);
  const strength = Number(state.get('environment', 'environment.strength') ?? 1);
  const target = lightTarget(suns[0]!.path);
  const turn = turnOf(lookingAt(sunDirection(day), [0, 0, 0])!);
  const rounded = (v: readonly number[], digits: number) =>
    v.map((x) => Number(x.toFixed(digits))) as unknown as readonly [number, number, number];
  return [
    ...sky,
    { target, property: 'light.turn', value: rounded(turn, 3) },
    { target, property: 'light.color', value: rounded(color, 4) },
    { target, property: 'light.intensity', value: Number((lux * strength).toPrecision(5)) },
  ];
}
