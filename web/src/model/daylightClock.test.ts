import { SceneIndex, resolve, withLights } from '@variscen/core/looks';
import type { SceneDocument } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { daylightChanges, isNight, sunOf, withKept } from './daylightClock.ts';

const greenwich = { latitudeDeg: 51.48, longitudeDeg: 0, date: '2026-06-21', time: '13:02', hoursAhead: 1 };

describe('the sun by place and time', () => {
  it('is in the south at noon, by the clock that is in use there', () => {
    const noon = sunOf(greenwich)!;
    expect(noon.elevationDeg).toBeCloseTo(62, 0);
    expect(Math.abs(noon.azimuthDeg - 180)).toBeLessThan(2);
    expect(sunOf({ ...greenwich, time: '06:00' })!.azimuthDeg).toBeLessThan(90);
    expect(isNight(sunOf({ ...greenwich, time: '01:00' })!.elevationDeg)).toBe(true);
    expect(sunOf({ ...greenwich, date: '' })).toBeNull();
  });

  it('is where it was left, but for what cannot be a place', () => {
    expect(withKept(greenwich, { latitudeDeg: -33, date: 7, longitudeDeg: null })).toEqual({
      ...greenwich,
      latitudeDeg: -33,
    });
    for (const kept of [null, 'here', [], 3]) expect(withKept(greenwich, kept)).toEqual(greenwich);
  });

  it('sets the sky, and the one sun light that is on with it', () => {
    const sun = '+sun/Sun';
    const document = { version: 1, nodes: [], meshes: [], materials: [], textures: [], lights: [], cameras: [] };
    const index = new SceneIndex(withLights(document as SceneDocument, [sun, '+sun/Other']));
    const added = (path: string) => ({ target: `light:${path}`, property: 'light.added', value: true });
    const stateOf = (...paths: string[]) =>
      resolve(index, [{ id: 'base', name: '', kind: 'base', changes: paths.map(added) }]);
    const low = { elevationDeg: 4, azimuthDeg: 270 };
    const set = daylightChanges(stateOf(sun), low);
    expect(set.map((c) => c.property)).toEqual([
      'environment.sunElevation',
      'environment.sunAzimuth',
      'light.turn',
      'light.color',
      'light.intensity',
    ]);
    const [r, , b] = set[3]!.value as readonly [number, number, number];
    expect(r / b).toBeGreaterThan(5);
    expect(daylightChanges(stateOf(), low)).toHaveLength(2);
    expect(daylightChanges(stateOf(sun, '+sun/Other'), low)).toHaveLength(2);
  });
});
