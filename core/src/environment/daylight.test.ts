import { describe, expect, it } from 'vitest';
import {
  type Daylight,
  daylightMap,
  daylightName,
  generateEnvironment,
  illuminance,
  luminanceOf,
  parseDaylight,
  sunAt,
  sunDirection,
  sunIlluminance,
  sunLight,
} from './index.ts';

/** Of this application's units, in which white paper under so many lux has π of them. */
const LUX = 100_000 / Math.PI;
const day = (elevationDeg: number, haze = 3, azimuthDeg = 180): Daylight => ({ elevationDeg, azimuthDeg, haze });
const pixel = (d: Daylight, [x, y, z]: readonly [number, number, number]) => {
  const m = daylightMap(d, 64);
  const row = Math.min(63, Math.floor((Math.acos(y) / Math.PI) * 64));
  const column = Math.floor((Math.atan2(x, -z) / (2 * Math.PI) + 0.5) * 128) % 128;
  return [...m.data.slice((row * 128 + column) * 3, (row * 128 + column) * 3 + 3)] as [number, number, number];
};

describe('daylight', () => {
  it('has at the zenith the luminance and chromaticity of the published model', () => {
    // Preetham et al. 1999, T = 3, sun 50° from the zenith, worked by hand
    const t = 3;
    const angle = (50 * Math.PI) / 180;
    const chi = (4 / 9 - t / 120) * (Math.PI - 2 * angle);
    const luminance = 1000 * ((4.0453 * t - 4.971) * Math.tan(chi) - 0.2155 * t + 2.4192);
    const above = pixel(day(40, t), [0, 1, 0]);
    expect((luminanceOf(above) * LUX) / luminance).toBeCloseTo(1, 1);
    expect(above[2] / above[0]).toBeGreaterThan(1.5); // blue
  });

  it('lights level ground as days do: about 100,000 lux at noon, a few thousand at sunset, less with each degree below', () => {
    const lux = (d: Daylight) => luminanceOf(illuminance(d)) * LUX;
    expect(lux(day(60))).toBeGreaterThan(85_000);
    expect(lux(day(60))).toBeLessThan(130_000);
    const falling = [90, 60, 40, 20, 10, 5, 2, 0, -2, -4, -6].map((e) => lux(day(e)));
    for (let i = 1; i < falling.length; i++) expect(falling[i]!).toBeLessThan(falling[i - 1]!);
    expect(falling.at(-1)!).toBeLessThan(60);
    expect(lux(day(0))).toBeLessThan(4000);
  });

  it('is the same left and right of the sun, and brightest around it', () => {
    const d = day(30, 4, 90);
    const [east, west] = [pixel(d, sunDirection({ ...d, elevationDeg: 32 })), pixel(d, [-0.85, 0.52, 0])];
    expect(luminanceOf(east)).toBeGreaterThan(3 * luminanceOf(west));
    const side = (azimuthDeg: number) => pixel(d, sunDirection({ elevationDeg: 20, azimuthDeg }));
    side(30).forEach((x, c) => expect(x / side(150)[c]!).toBeCloseTo(1, 1));
  });

  it('is finite and nowhere negative, whatever the sun and the haze', () => {
    for (const elevation of [-6, -1, 0, 0.5, 3, 45, 90])
      for (const haze of [2, 3, 10]) {
        const { data } = daylightMap(day(elevation, haze, 300), 16);
        expect(
          data.every((x) => Number.isFinite(x) && x >= 0),
          `${elevation} ${haze}`,
        ).toBe(true);
        expect(Math.max(...data)).toBeGreaterThan(0);
      }
  });

  it('has a sun that reddens and weakens towards the horizon and in haze, and is gone below it', () => {
    const beam = (d: Daylight) => luminanceOf(sunIlluminance(d)) * LUX;
    expect(beam(day(60, 2.5))).toBeGreaterThan(80_000);
    expect(beam(day(60, 6))).toBeLessThan(beam(day(60, 2.5)) * 0.8);
    expect(beam(day(5))).toBeLessThan(beam(day(30)) / 5);
    expect(beam(day(0))).toBe(0);
    const { color } = sunLight(day(5));
    expect(color[0]).toBe(1);
    expect(color[2]).toBeLessThan(0.2);
    expect(sunLight(day(-3))).toEqual({ color: [1, 1, 1], lux: 0 });
  });

  it('has its sun where almanacs have it', () => {
    // equinox, local noon at Greenwich: in the south, as high as the equator is
    const noon = sunAt(new Date('2026-03-20T12:07:00Z'), { latitudeDeg: 51.48, longitudeDeg: 0 });
    expect(noon.elevationDeg).toBeCloseTo(38.5, 0);
    expect(Math.abs(noon.azimuthDeg - 180)).toBeLessThan(1);
    const morning = sunAt(new Date('2026-03-20T07:00:00Z'), { latitudeDeg: 51.48, longitudeDeg: 0 });
    expect(morning.azimuthDeg).toBeLessThan(110);
    expect(sunDirection({ elevationDeg: 0, azimuthDeg: 90 }).map((x) => Math.round(x * 1e9) / 1e9 + 0)).toEqual([
      1, 0, 0,
    ]);
    expect(sunDirection({ elevationDeg: 0, azimuthDeg: 0 })[2]).toBe(-1);
  });

  it('is called by what it is made from', () => {
    const d = day(12.5, 4.2, -30);
    expect(parseDaylight(daylightName(d))).toEqual(d);
    for (const name of ['daylight', 'daylight 1 2', 'daylight 1 2 x', 'noon', 'daylight 1 2 3 4'])
      expect(parseDaylight(name), name).toBeUndefined();
    expect(generateEnvironment('daylight 12.5 -30 4.2', 16).data).toEqual(daylightMap(d, 16).data);
  });
});
